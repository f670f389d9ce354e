#include "base/camera_frame.h"

#include "base/input_bounds.h"

namespace ustor {

Message wrongPictureSize() {
    return say("width and height must lie between {least} and {most}",
               {{"least", bounds::narrowest_px}, {"most", bounds::widest_px}});
}

std::optional<Message> whyNoCamera(const CameraInfo& info) {
    if (!bounds::isPictureSize(info.width, info.height)) return wrongPictureSize();
    const auto within = [](double value, double low, double high) { return value >= low && value <= high; };
    if (!within(info.ambient_c, bounds::coldestRoom_c, bounds::hottestRoom_c) ||
        !within(info.frameRate_hz, 0, bounds::fastest_hz) || !within(info.netd_mk, 0, bounds::noisiest_mk))
        return say("ambient_c, frame_rate_hz or netd_mk is no value of a thermal camera");
    return std::nullopt;
}

} // namespace ustor
