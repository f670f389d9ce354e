#pragma once

#include <Eigen/Dense>
#include <opencv2/core.hpp>
#include <optional>
#include <vector>

namespace ustor {

/// How each pixel follows the power.
///
/// Model, for each pixel:   y(t) = sum_k c_k (h_k * p)(t) + a + b t + e(t)
/// with p the delivered power, h_k(t) = exp(-t / tau_k) / tau_k a bank of first-order lags, a + b t drift, e
/// white camera noise. The coefficients are found by least squares over all frames, kept as running sums, so
/// that a live stream costs one update a frame. From them follows the response to one watt switched on t
/// seconds ago,
///     S(t) = sum_k c_k (1 - exp(-t / tau_k)),
/// and its standard deviation sqrt(w' (B'B)^-1 w) sigma, w_k = 1 - exp(-t / tau_k). Small t locates; large t
/// shows the area. The bank stands in for the board's true response (a sum of such lags for every linear
/// diffusion), so it needs no knowledge of the board. Valid while the power changes often against the slowest
/// lag.
class StepResponse {
  public:
    StepResponse(int width, int height);

    /// Adds one repaired frame (CV_32FC1 kelvin) taken at a time, and the power delivered at that time.
    /// Power between frames is taken as linear. Times must rise.
    void add(double time_s, double watts, const cv::Mat& kelvin);

    int frames() const { return m_frames; }
    bool ready() const; ///< enough frames and enough change of power to solve

    struct Maps {
        cv::Mat rise_k_per_w;     ///< S(t) of each pixel, CV_32FC1
        double sigma_k_per_w = 0; ///< its standard deviation from camera noise, the same for all pixels
    };
    /// The response t seconds after one watt is switched on.
    Maps at(double seconds) const;
    /// S(t) of one pixel.
    double at(double seconds, int x, int y) const;
    /// Camera noise of a single frame in kelvin, from what the model leaves over.
    double noise_k() const;

    static constexpr int lags = 4;
    static const double lag_s[lags];

  private:
    static constexpr int terms = lags + 2;
    void solve() const;
    Eigen::VectorXd weights(double seconds) const;

    int m_width, m_height, m_frames = 0;
    double m_start_s = 0, m_last_s = 0, m_lastWatts = 0;
    double m_lagged[lags] = {};
    Eigen::MatrixXd m_gram;                                                         // terms x terms
    Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor> m_cross; // terms x pixels
    Eigen::VectorXd m_squares;                                                      // pixels
    mutable Eigen::MatrixXd m_inverse;
    mutable Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor> m_coefficients;
    mutable double m_noise_k = 0;
    mutable bool m_solved = false;
};

} // namespace ustor
