#include "session/painted_surfaces.h"

#include <algorithm>

namespace ustor {

std::vector<SurfaceStroke> strokesOver(Painted::Over over, const CaseState& state) {
    std::vector<SurfaceStroke> strokes;
    for (const auto& [fact, painted] : state.painted) {
        // A surface of a later version stays a fact, and paints nothing.
        const auto surface = surfaceFromWord(painted.surface);
        if (painted.over == over && surface)
            strokes.push_back({*surface, painted.from, painted.to, painted.radius_px});
    }
    return strokes;
}

long newestStroke(Painted::Over over, const CaseState& state) {
    const auto last = std::find_if(state.painted.rbegin(), state.painted.rend(),
                                   [over](const auto& painted) { return painted.second.over == over; });
    return last == state.painted.rend() ? 0 : last->first;
}

Painted paintedOver(Painted::Over over, const SurfaceStroke& stroke) {
    return {over, std::string(wordOf(stroke.surface)), stroke.from, stroke.to, stroke.radius_px};
}

} // namespace ustor
