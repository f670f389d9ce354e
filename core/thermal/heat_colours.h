#pragma once

#include <opencv2/core.hpp>
#include <optional>

namespace ustor {

/// Temperatures (CV_32FC1) as colours of cividis (Nunez, Anderton, Renslow, PLoS ONE 13(7), 2018) between two
/// fixed ends: CV_8UC4, blue, green, red, alpha. What is not a number is see-through. With `clearBelow`,
/// values under it are see-through and those above fade in, for laying over a board.
cv::Mat heatColours(const cv::Mat& values, double low, double high, std::optional<double> clearBelow = {});

} // namespace ustor
