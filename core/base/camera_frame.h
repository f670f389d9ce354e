#pragma once

#include "base/message.h"
#include "base/side.h"

#include <cstdint>
#include <optional>
#include <vector>

namespace ustor {

/// What a thermal camera says of itself.
struct CameraInfo {
    int width = 0, height = 0;
    double frameRate_hz = 0;
    double netd_mk = 0; ///< 0 when the camera does not say
    double ambient_c = 25;
    Side side = Side::Top; ///< the side of the board that faces the camera
};

/// Why no camera can be like that, in a sentence for people; nothing where one can.
std::optional<Message> whyNoCamera(const CameraInfo& info);
Message wrongPictureSize();

/// One picture of a camera, as it came: kelvin times 100, row by row.
struct CameraFrame {
    double time_s = 0; ///< on the camera's own clock
    int width = 0, height = 0;
    std::vector<std::uint16_t> centikelvin; ///< width x height
};

} // namespace ustor
