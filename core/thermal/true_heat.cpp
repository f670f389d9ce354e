#include "thermal/true_heat.h"

#include "base/units.h"

#include "base/check.h"
#include "thermal/emissivity.h"

#include <functional>
#include <limits>

namespace ustor {
namespace {

/// Below this emissivity a camera shows the room.
constexpr double blind = 0.3;

cv::Mat bySurface(const cv::Mat& shown, const cv::Mat& emissivity,
                  const std::function<double(double, double)>& itself) {
    USTOR_CHECK(shown.size() == emissivity.size() && shown.type() == CV_32FC1, "a map and its surfaces");
    cv::Mat out = shown.clone();
    for (int y = 0; y < out.rows; ++y)
        for (int x = 0; x < out.cols; ++x) {
            const double e = emissivity.at<float>(y, x);
            out.at<float>(y, x) = e < blind ? std::numeric_limits<float>::quiet_NaN()
                                            : static_cast<float>(itself(out.at<float>(y, x), e));
        }
    return out;
}

} // namespace

cv::Mat trueRise(const cv::Mat& rise_k, const cv::Mat& emissivity, double room_c) {
    const double room_k = celsiusZero_k + room_c;
    return bySurface(rise_k, emissivity,
                     [room_k](double rise, double e) { return rise / shownShare(room_k, e, room_k); });
}

cv::Mat trueCelsius(const cv::Mat& celsius, const cv::Mat& emissivity, double room_c) {
    const double room_k = celsiusZero_k + room_c;
    return bySurface(celsius, emissivity, [room_k](double shown, double e) {
        const auto kelvin = surfaceKelvin(shown + celsiusZero_k, e, room_k);
        return kelvin ? *kelvin - celsiusZero_k : std::numeric_limits<double>::quiet_NaN();
    });
}

} // namespace ustor
