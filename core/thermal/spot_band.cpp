#include "thermal/spot_band.h"

#include <cmath>
#include <numbers>
#include <opencv2/imgproc.hpp>

namespace ustor {
namespace {

/// The same over means of n x n pixels, n even. A mean over n has the variance (n^2 - 1) / 12, and going
/// straight from one to the next adds (2 n^2 + 1) / 12 in the mean over the places between.
cv::Mat coarselyBlurred(const cv::Mat& map, double deviation_px, int n) {
    const auto up = [n](int size) { return (size + n - 1) / n; };
    const cv::Size coarse(up(map.cols), up(map.rows));
    cv::Mat whole = map, means, calm, out;
    if (coarse.area() * n * n != map.size().area())
        cv::copyMakeBorder(map, whole, 0, coarse.height * n - map.rows, 0, coarse.width * n - map.cols,
                           cv::BORDER_REFLECT);
    cv::resize(whole, means, coarse, 0, 0, cv::INTER_AREA);
    const double left_px = std::sqrt(deviation_px * deviation_px - n * n / 4.0) / n;
    cv::GaussianBlur(means, calm, {}, left_px, left_px, cv::BORDER_REFLECT);
    cv::resize(calm, out, whole.size(), 0, 0, cv::INTER_LINEAR);
    return out(cv::Rect({}, map.size()));
}

} // namespace

cv::Mat blurred(const cv::Mat& map, double deviation_px) {
    constexpr double enough = 4; // deviation over a mean's side: the picture in between is straight enough
    const int n = 2 * static_cast<int>(deviation_px / enough / 2);
    if (n > 0) return coarselyBlurred(map, deviation_px, n);
    cv::Mat out;
    cv::GaussianBlur(map, out, {}, deviation_px, deviation_px, cv::BORDER_REFLECT);
    return out;
}

SpotBand::SpotBand(const cv::Mat& weight, const SpotScale& scale)
    : m_scale(scale), m_weight(weight), m_spotSum(blurred(weight, scale.spot)),
      m_areaSum(blurred(weight, scale.area)) {}

cv::Mat SpotBand::value(const cv::Mat& map) const {
    const cv::Mat weighed = map.mul(m_weight);
    cv::Mat spot, area;
    cv::divide(blurred(weighed, m_scale.spot), m_spotSum, spot);
    cv::divide(blurred(weighed, m_scale.area), m_areaSum, area);
    return spot - area;
}

cv::Mat SpotBand::deviation() const {
    const auto varianceOf = [&](const cv::Mat& sum, double scale) {
        cv::Mat variance;
        cv::divide(blurred(m_weight, scale / std::numbers::sqrt2), sum.mul(sum), variance,
                   1 / (4 * std::numbers::pi * scale * scale));
        return variance;
    };
    cv::Mat deviation;
    cv::sqrt(varianceOf(m_spotSum, m_scale.spot) + varianceOf(m_areaSum, m_scale.area), deviation);
    return deviation;
}

} // namespace ustor
