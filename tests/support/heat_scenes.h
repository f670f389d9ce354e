#pragma once

#include "base/points.h"
#include "thermal/recording.h"

#include <cstdint>
#include <optional>
#include <string_view>
#include <vector>

namespace ustor::testing {

/// Kinds of recordings that people are fooled by.
enum class SceneKind {
    Plain,    ///< one fault on the near side, nothing else
    Hand,     ///< a hand comes into the picture and goes
    Rework,   ///< fresh hot-air heat decays through the whole recording
    Manual,   ///< switched by hand, unevenly
    Shutter,  ///< frozen pictures and jumps, frames lost and sent twice
    Whisper,  ///< 0.3 to 2 mW, half a minute of pulses
    Handheld, ///< the camera wanders by up to three pixels
    Several,  ///< hand, rework heat, shutter and a little motion at once
    Path,     ///< parts in the path as warm as the fault or up to three times warmer
    Far,      ///< the fault is on the other side
    Wide,     ///< an area without a source
    Nothing,  ///< the power goes elsewhere; reflections come and go
    Cooling   ///< the same, and hot-air heat that decays
};
std::string_view wordOf(SceneKind kind);
const std::vector<SceneKind>& allScenes();

struct Scene {
    Recording recording;
    double mmPerPixel = 0.5;
    std::optional<PixelPoint> fault;    ///< in the first frame
    double fault_w = 0, partRise_k = 0; ///< mean power while on; how much the part itself warms at most
    std::vector<PixelPoint> inPath;
};

/// A recording made by rule from a seed. The heat is that of finite volumes in six layers, with copper
/// that varies over the board and slots in it, loss to air; parts are lumps of heat on a
/// face, seen as the body they have. The camera has blur, emissivity by surface with reflections, fixed
/// pattern, dead pixels, drift, jitter of its clock. Nothing of the estimator's bank of lags or its spot
/// model is in it.
Scene makeScene(SceneKind kind, std::uint64_t seed);

} // namespace ustor::testing
