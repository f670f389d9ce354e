#pragma once

#include "base/points.h"

#include <opencv2/core.hpp>
#include <vector>

namespace ustor::testing {

/// Heat in an even board, by Fourier modes that are each stepped exactly: two faces that exchange heat, each
/// spreading sideways and losing heat to air. No cells and no lags; periodic beyond a margin.
class SpectralPlate {
  public:
    struct Board {
        double conductivity_w_mk = 20; ///< in the plane
        double through_w_mk = 0.4;
        double thickness_m = 1.2e-3;
        double loss_w_m2k = 10; ///< of each face
        static constexpr double heatCapacity_j_m3k = 2e6;
    };
    SpectralPlate(cv::Size picture, double mmPerPixel, const Board& board);

    /// A round source of that deviation. Returns its number.
    std::size_t addSource(PixelPoint at, double width_px, bool farSide);
    /// Goes on with powers that stay the same meanwhile, one of each source.
    void step(double seconds, const std::vector<double>& watts);
    /// Rise of the near face, CV_32FC1.
    cv::Mat rise_k() const;

  private:
    struct Source {
        cv::Mat modes;
        bool farSide = false;
    };

    cv::Size m_picture, m_whole;
    cv::Point m_corner; ///< of the picture in the whole
    double m_pixel_m, m_capacity_j_m2k, m_exchange_per_s;
    cv::Mat m_sumRates;            ///< of each mode of the faces' sum, 1/s
    float m_time_s = 0;            ///< of the last step; what goes meanwhile is kept:
    cv::Mat m_gone, m_fasterGone;  ///< share of the sum and of the difference
    cv::Mat m_sum, m_difference;   ///< of the faces, CV_32FC2
    std::vector<Source> m_sources; ///< modes of one watt over a face's heat capacity
};

} // namespace ustor::testing
