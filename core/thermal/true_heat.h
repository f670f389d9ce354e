#pragma once

#include <opencv2/core.hpp>

namespace ustor {

/// What the surface itself has of what a camera shows of it, pixel by pixel: the inverse by the band radiance
/// (see emissivity.h). `emissivity`: CV_32FC1 of the same size. Not a number where the camera is blind or no
/// temperature would look like that.
cv::Mat trueRise(const cv::Mat& rise_k, const cv::Mat& emissivity, double room_c);
cv::Mat trueCelsius(const cv::Mat& celsius, const cv::Mat& emissivity, double room_c);

} // namespace ustor
