#pragma once

#include "thermal/recording.h"

#include <opencv2/core.hpp>
#include <vector>

namespace ustor {

/// Squares of the picture that are judged together.
struct PictureBlocks {
    static constexpr int side_px = 8;
    static int across(int pixels) { return (pixels + side_px - 1) / side_px; }
    static cv::Size of(cv::Size picture) { return {across(picture.width), across(picture.height)}; }
};

/// Mean of each block of a picture (CV_32FC1 in and out).
cv::Mat blockMeans(const cv::Mat& picture);

/// Which blocks something covers that passes through the picture (a hand, a sleeve, a tool), for each frame:
/// CV_8UC1 pictures of blocks, not 0 where covered; empty where nothing is.
///
/// The mean course of each block is fitted by one lag of the delivered power and a line in time, by least
/// absolute deviations (iteratively reweighted least squares; Huber and Ronchetti, Robust Statistics), so
/// that what is there for a smaller part of the time does not count; what does not stand out is then fitted
/// with all lags and a baseline that bends. What stands out of that by far, in blocks that hang together and
/// reach the edge of the picture, is something that came in from outside. Heat of parts is not: it follows
/// the power, and it does not come in from the edge.
///
/// `means_k`: `blockMeans` of the repaired frames, `times_s` theirs.
std::vector<cv::Mat> passingThrough(const std::vector<cv::Mat>& means_k, const std::vector<double>& times_s,
                                    const std::vector<SupplySample>& supply);

} // namespace ustor
