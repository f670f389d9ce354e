#include "base/median.h"
#include "base/number_text.h"
#include "thermal/motion.h"
#include "thermal/still/still.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <opencv2/imgproc.hpp>

namespace ustor {
namespace {

/// Unknown pixels by the mean of what is known around them: a neutral ground for filters.
cv::Mat filled(const cv::Mat& picture, cv::Mat& known) {
    known = picture == picture;
    cv::Mat out = picture.clone(), weight, sum;
    out.setTo(0, ~known);
    cv::Mat share;
    known.convertTo(share, CV_32F, 1.0 / 255);
    constexpr double around_px = 6;
    cv::GaussianBlur(out, sum, {}, around_px);
    cv::GaussianBlur(share, weight, {}, around_px);
    cv::Mat mean;
    cv::divide(sum, cv::max(weight, 1e-6F), mean);
    mean.copyTo(out, ~known);
    return out;
}

double medianIn(const cv::Mat& picture, const cv::Mat& known) {
    std::vector<float> values;
    for (int y = 0; y < picture.rows; ++y)
        for (int x = 0; x < picture.cols; ++x)
            if (known.at<uchar>(y, x)) values.push_back(picture.at<float>(y, x));
    return medianOf(values);
}

/// Camera noise of one pixel: the robust spread of what differs between neighbours.
double noiseOf(const cv::Mat& picture, const cv::Mat& known) {
    std::vector<float> steps;
    for (int y = 0; y < picture.rows; ++y)
        for (int x = 1; x < picture.cols; ++x)
            if (known.at<uchar>(y, x) && known.at<uchar>(y, x - 1))
                steps.push_back(std::fabs(picture.at<float>(y, x) - picture.at<float>(y, x - 1)));
    constexpr double normal = 1.4826;
    return normal * static_cast<double>(medianOf(steps)) / std::sqrt(2.0);
}

} // namespace

Result<StillDifference> stillDifference(const Still& warm, const Still& before) {
    if (warm.celsius.size() != before.celsius.size())
        return Error{say("the two stills are not of one size"), "stills",
                     say("take both with the same camera")};
    StillDifference difference;
    cv::Mat knownBefore, knownWarm;
    cv::Mat earlier = filled(before.celsius, knownBefore);
    const cv::Mat later = filled(warm.celsius, knownWarm);
    MotionTracker tracker(later);
    constexpr double surely_px = 0.3, least_px = 0.1;
    const PixelPoint shift = tracker.track(MotionTracker::smoothed(earlier));
    const double moved_px = std::hypot(shift.x_px, shift.y_px);
    if (!tracker.canTell() || tracker.sigma_px() > surely_px) {
        difference.notes.emplace_back(
            say("whether the camera moved between the two cannot be told: edges of parts may show as heat"));
    } else if (moved_px > least_px) {
        earlier = movedBack(earlier, shift);
        cv::Mat known;
        knownBefore.convertTo(known, CV_32F, 1.0 / 255);
        knownBefore = movedBack(known, shift) > 0.99;
        difference.notes.push_back(say("the camera moved by {moved} px between the two: taken back",
                                       {{"moved", textOfNumber(std::round(10 * moved_px) / 10)}}));
    }
    const cv::Mat known = knownBefore & knownWarm;
    cv::Mat rise = later - earlier;
    rise -= medianIn(rise, known); // what warmed everywhere alike
    const double quantised_k = std::max(warm.step_k, before.step_k) / std::sqrt(6.0); // of two roundings
    difference.noise_k = std::max({noiseOf(rise, known), quantised_k, 1e-4});
    StepResponse::Maps maps;
    maps.rise_k_per_w = rise;
    maps.rise_k_per_w.setTo(0, ~known);
    maps.sigma_k_per_w = difference.noise_k;
    maps.excess = cv::Mat(rise.size(), CV_32FC1, cv::Scalar(1));
    constexpr double unknown = 1e3;
    maps.excess.setTo(unknown, ~known);
    constexpr double leastSnr = 8;
    constexpr int most = 6;
    difference.spots = findSources(maps, floorFrom({}, rise.size()), leastSnr, most);
    difference.rise_k = rise.clone();
    difference.rise_k.setTo(std::numeric_limits<float>::quiet_NaN(), ~known);
    difference.notes.emplace_back(
        say("two stills cannot tell what follows the power: a hand, a reflection or fresh "
            "rework heat looks the same"));
    return difference;
}

} // namespace ustor
