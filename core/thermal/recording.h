#pragma once

#include "base/camera_frame.h"
#include "base/message.h"
#include "base/supply_sample.h"

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

/// A thermal recording with what the supply did meanwhile.
struct Recording {
    CameraInfo info;
    std::vector<ThermalFrame> frames;
    std::vector<SupplySample> supply;
    std::vector<Beat> beats;
    std::vector<Message> warnings;
};

/// A picture as a camera gave it.
ThermalFrame thermalFrame(const CameraFrame& frame);

/// Kelvin as floats (CV_32FC1) from centikelvin.
cv::Mat kelvinOf(const cv::Mat& centikelvin);

} // namespace ustor
