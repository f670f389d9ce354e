#include "thermal/recording.h"

namespace ustor {

cv::Mat kelvinOf(const cv::Mat& centikelvin) {
    cv::Mat kelvin;
    centikelvin.convertTo(kelvin, CV_32F, 0.01);
    return kelvin;
}

} // namespace ustor
