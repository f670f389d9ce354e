#pragma once

#include "base/result.h"

#include <opencv2/core.hpp>
#include <string>
#include <string_view>

namespace ustor {

/// How many of a file's first bytes the two questions below need.
constexpr std::size_t pictureHead_bytes = 32;
/// Does a file that begins so hold a PNG, JPEG or BMP picture?
bool isPicture(std::string_view head);
/// A PNG of grey with 16 bits: its pixels are numbers, not colours.
bool isPictureOfNumbers(std::string_view head);

/// A picture as it is stored: CV_16UC1 for a picture of numbers, CV_8UC3 (blue, green, red) for all others.
/// Its size is looked at before it is unpacked (`bounds::isPictureSize`). Error, which names the file, for
/// what is damaged, cut off, or of another size.
Result<cv::Mat> readPicture(const std::string& file);

/// Writes colours with transparency (CV_8UC4: blue, green, red, alpha) as a PNG.
Outcome writePng(const cv::Mat& bgra, const std::string& file);

} // namespace ustor
