#include "support/plain_finders.h"

#include "thermal/power.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

namespace ustor::testing {
namespace {

PixelPoint highestOf(const cv::Mat& map) {
    cv::Point at;
    cv::minMaxLoc(map, nullptr, nullptr, nullptr, &at);
    return {static_cast<double>(at.x), static_cast<double>(at.y)};
}

/// Mean of the frames of the later half in which the power is on.
cv::Mat lateMean(const Recording& recording) {
    cv::Mat sum = cv::Mat::zeros(recording.frames.front().centikelvin.size(), CV_32FC1);
    int count = 0;
    const double half_s = (recording.frames.front().time_s + recording.frames.back().time_s) / 2;
    for (const ThermalFrame& frame : recording.frames) {
        if (frame.time_s < half_s || deliveredPower_w(recording.supply, frame.time_s) <= 0) continue;
        sum += kelvinOf(frame.centikelvin);
        ++count;
    }
    return sum / std::max(1, count);
}

} // namespace

PixelPoint warmestPixel(const Recording& recording) {
    return highestOf(lateMean(recording));
}

PixelPoint warmestAfterStart(const Recording& recording) {
    cv::Mat start = cv::Mat::zeros(recording.frames.front().centikelvin.size(), CV_32FC1);
    int count = 0;
    const auto on = switchOns(recording.supply);
    for (const ThermalFrame& frame : recording.frames) {
        if (!on.empty() && frame.time_s > on.front()) break;
        start += kelvinOf(frame.centikelvin);
        ++count;
    }
    return highestOf(lateMean(recording) - start / std::max(1, count));
}

PixelPoint mostLikePower(const Recording& recording) {
    constexpr double lag_s = 0.5;
    const auto frames = static_cast<long>(recording.frames.size());
    Eigen::VectorXd power(frames);
    Eigen::MatrixXd line(frames, 2);
    double lagged = 0, last_s = recording.frames.front().time_s;
    for (long i = 0; i < frames; ++i) {
        const double time_s = recording.frames[static_cast<std::size_t>(i)].time_s;
        const double watts = deliveredPower_w(recording.supply, time_s);
        lagged = watts + (lagged - watts) * std::exp(-(time_s - last_s) / lag_s);
        last_s = time_s;
        power[i] = lagged;
        line.row(i) << 1, time_s;
    }
    const Eigen::MatrixXd fit = (line.transpose() * line).ldlt().solve(line.transpose());
    power -= line * (fit * power);
    // Correlation of each pixel's course without its line: sums over the frames.
    const cv::Size size = recording.frames.front().centikelvin.size();
    cv::Mat like = cv::Mat::zeros(size, CV_64FC1), squares = like.clone(), level = like.clone(),
            slope = like.clone();
    const cv::Mat first = kelvinOf(recording.frames.front().centikelvin);
    for (long i = 0; i < frames; ++i) {
        cv::Mat rise;
        cv::subtract(kelvinOf(recording.frames[static_cast<std::size_t>(i)].centikelvin), first, rise, {},
                     CV_64F);
        like += power[i] * rise;
        squares += rise.mul(rise);
        level += rise;
        slope += line(i, 1) * rise;
    }
    const Eigen::Matrix2d inverse = (line.transpose() * line).inverse();
    const cv::Mat explained = inverse(0, 0) * level.mul(level) + 2 * inverse(0, 1) * level.mul(slope) +
                              inverse(1, 1) * slope.mul(slope);
    cv::Mat deviation, likeness;
    cv::sqrt(cv::max(squares - explained, 1e-12), deviation);
    cv::divide(like, deviation, likeness);
    return highestOf(likeness);
}

} // namespace ustor::testing
