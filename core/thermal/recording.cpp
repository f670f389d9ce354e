#include "thermal/recording.h"

#include "base/check.h"

#include <cstring>

namespace ustor {

ThermalFrame thermalFrame(const CameraFrame& frame) {
    ThermalFrame own{frame.time_s, cv::Mat(frame.height, frame.width, CV_16UC1)};
    USTOR_CHECK(frame.centikelvin.size() == own.centikelvin.total(), "a whole picture");
    std::memcpy(own.centikelvin.data, frame.centikelvin.data(),
                own.centikelvin.total() * sizeof(std::uint16_t));
    return own;
}

cv::Mat kelvinOf(const cv::Mat& centikelvin) {
    cv::Mat kelvin;
    centikelvin.convertTo(kelvin, CV_32F, 0.01);
    return kelvin;
}

} // namespace ustor
