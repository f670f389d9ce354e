#pragma once

#include "base/supply_sample.h"
#include "board/board.h"

#include <opencv2/core.hpp>
#include <string>
#include <vector>

namespace ustor {

/// The supply was to be switched by hand: what the person was asked to do, and when. What was done lags by a
/// hand's delay, or was left out.
struct Beat {
    double time_s = 0; ///< on the frames' clock
    bool on = false;
};

/// One picture of the camera: CV_16UC1, kelvin times 100.
struct ThermalFrame {
    double time_s = 0;
    cv::Mat centikelvin;
};

struct RecordingInfo {
    int width = 0, height = 0;
    double frameRate_hz = 0;
    double netd_mk = 0; ///< 0 when the camera does not say
    double ambient_c = 25;
    Side side = Side::Top; ///< the side of the board that faces the camera
};

/// A thermal recording with what the supply did meanwhile.
struct Recording {
    RecordingInfo info;
    std::vector<ThermalFrame> frames;
    std::vector<SupplySample> supply;
    std::vector<Beat> beats;
    std::vector<std::string> warnings;
};

/// Kelvin as floats (CV_32FC1) from centikelvin.
cv::Mat kelvinOf(const cv::Mat& centikelvin);

} // namespace ustor
