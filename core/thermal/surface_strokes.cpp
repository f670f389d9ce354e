#include "thermal/surface_strokes.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

namespace ustor {

void paintSurfaces(cv::Mat& emissivity, const std::vector<SurfaceStroke>& strokes) {
    // Sub-pixel places, as fixed-point numbers of the drawing.
    constexpr int bits = 4, one = 1 << bits;
    const auto fixed = [](double px) { return static_cast<int>(std::lround(px * one)); };
    for (const SurfaceStroke& s : strokes)
        cv::line(emissivity, {fixed(s.from.x_px), fixed(s.from.y_px)}, {fixed(s.to.x_px), fixed(s.to.y_px)},
                 cv::Scalar(emissivityOf(s.surface)),
                 std::max(1, static_cast<int>(std::lround(2 * s.radius_px))), cv::LINE_8, bits);
}

std::string_view wordOf(Surface surface) {
    switch (surface) {
    case Surface::Mask:
        return "mask";
    case Surface::Plastic:
        return "plastic";
    case Surface::Ceramic:
        return "ceramic";
    case Surface::BareMetal:
        return "bare metal";
    }
    return "mask";
}

Message labelOf(Surface surface) {
    switch (surface) {
    case Surface::Mask:
        return say("mask");
    case Surface::Plastic:
        return say("plastic");
    case Surface::Ceramic:
        return say("ceramic");
    case Surface::BareMetal:
        return say("bare metal");
    }
    return {};
}

const std::vector<Surface>& allSurfaces() {
    static const std::vector<Surface> all{Surface::Mask, Surface::Plastic, Surface::Ceramic,
                                          Surface::BareMetal};
    return all;
}

std::optional<Surface> surfaceFromWord(std::string_view word) {
    for (const Surface surface : allSurfaces())
        if (wordOf(surface) == word) return surface;
    return std::nullopt;
}

} // namespace ustor
