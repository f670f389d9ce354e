#pragma once

#include <opencv2/core.hpp>

namespace ustor {

/// How large a spot is looked for, in px.
struct SpotScale {
    double spot = 1.0, area = 3.5; ///< deviations of the two Gaussians whose difference is the search's band
    int reach = 4;                 ///< half side of the window that is fitted
    double widest = 6;             ///< of the fitted spot's deviation: at this it is no spot of this scale
    static SpotScale near() { return {}; }
    static SpotScale far() { return {3.0, 12.0, 16, 30}; }
};

/// Convolution with a Gaussian of that deviation, px, mirrored at the border; CV_32FC1. A wide one goes over
/// means of some pixels each, whose own variance is taken off.
cv::Mat blurred(const cv::Mat& map, double deviation_px);

/// The band of a picture that holds what is point-like, with its pixels weighed: weighed means
/// sum(g w y) / sum(g w) over the spot less that over the area.
class SpotBand {
  public:
    SpotBand() = default;
    /// `weight`: of each pixel, 1 / variance over that of a good one.
    SpotBand(const cv::Mat& weight, const SpotScale& scale);
    /// Of a map, in its unit.
    cv::Mat value(const cv::Mat& map) const;
    /// Of noise of deviation 1 in good pixels. With w = 1 / variance the variance of a weighed mean is
    /// sum(g^2 w) / (sum(g w))^2; a Gaussian squared is a narrower one, g_s^2 = g_(s/sqrt 2) / (4 pi s^2).
    cv::Mat deviation() const;
    const cv::Mat& weight() const { return m_weight; }
    const SpotScale& scale() const { return m_scale; }

  private:
    SpotScale m_scale;
    cv::Mat m_weight, m_spotSum, m_areaSum;
};

} // namespace ustor
