#pragma once

#include "base/message.h"
#include "thermal/emissivity.h"

#include <optional>
#include <string_view>
#include <vector>

namespace ustor {

/// A surface that a person painted over the camera's picture, where the board's data do not know it: a stroke
/// with round ends, in pixels of the first frame.
struct SurfaceStroke {
    Surface surface = Surface::Mask;
    PixelPoint from, to;
    double radius_px = 2.5;
};

/// Emissivity of the strokes onto a map (CV_32FC1), the later ones on top.
void paintSurfaces(cv::Mat& emissivity, const std::vector<SurfaceStroke>& strokes);

/// "mask", "plastic", "ceramic", "bare metal".
std::string_view wordOf(Surface surface);
Message labelOf(Surface surface);
const std::vector<Surface>& allSurfaces();

std::optional<Surface> surfaceFromWord(std::string_view word);

} // namespace ustor
