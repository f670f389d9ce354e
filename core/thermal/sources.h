#pragma once

#include "base/points.h"

#include <opencv2/core.hpp>
#include <vector>

namespace ustor {

/// One warm spot in a response map.
struct HeatSource {
    PixelPoint at;
    double sigma_px = 0;     ///< standard deviation of the place, each axis
    double width_px = 0;     ///< standard deviation of the fitted spot
    double rise_k_per_w = 0; ///< height of the fitted spot above its surroundings
    double snr = 0;          ///< of the matched filter at the peak
};

/// Finds point-like spots in a response map and fits each with a round Gaussian on a flat ground by least
/// squares. The place's standard deviation is the fit's Fisher information under white noise of `sigma` (Kay,
/// Estimation Theory: variance >= sigma^2 / sum (dA/dx)^2), widened where the residual exceeds that noise.
/// Strongest first; spots closer than 3 px to a stronger one are part of it.
std::vector<HeatSource> findSources(const cv::Mat& rise_k_per_w, double sigma, double leastSnr, int most);

} // namespace ustor
