#pragma once

#include "thermal/sources.h"

#include <opencv2/core.hpp>
#include <optional>

namespace ustor {

/// A round Gaussian on a flat ground, fitted in the window around a peak by least squares with pixels
/// weighed. `sigma`: noise of a pixel of weight 1, in the map's unit. Nothing where the fit leaves the
/// window.
std::optional<HeatSource> fitSpot(const cv::Mat& map, const cv::Mat& weight, cv::Point peak, double sigma,
                                  const SpotScale& scale);

} // namespace ustor
