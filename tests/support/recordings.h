#pragma once

#include "base/points.h"
#include "base/random.h"
#include "thermal/plate.h"
#include "thermal/recording.h"

#include <vector>

namespace ustor::testing {

/// A source in a rendered recording, in pixels.
struct RenderedSource {
    PixelPoint at;
    double watts = 0.01;
};

struct RenderSettings {
    int width = 64, height = 48;
    double rate_hz = 25, seconds = 16, netd_mk = 50, mmPerPixel = 0.5, blur_px = 0.8;
    double on_s = 1, off_s = 1;
    double clockAhead_s = 0;  ///< supply's clock against the frames'
    double drift_k_per_s = 0; ///< common to all pixels
    double jumpAt_s = -1;     ///< shutter: a freeze of 0.3 s, then a jump of half a kelvin
    std::uint64_t seed = 1;
    Plate plate;
};

/// Renders pulses of line sources in an infinite plate by superposing the closed form of Carslaw and
/// Jaeger, 10.4: exact physics, and nothing of the estimator's bank of lags.
Recording render(const std::vector<RenderedSource>& sources, const RenderSettings& settings);

} // namespace ustor::testing
