#include "support/recordings.h"

#include <cmath>
#include <opencv2/core.hpp>

namespace ustor::testing {
namespace {

/// Rise per watt at a distance, averaged over the blur by taking distances no smaller than it.
double rise(const RenderSettings& s, double px, double t, double pulse) {
    // A train of pulses is a sum of switched-on and switched-off sources.
    double sum = 0;
    const double r_m = std::hypot(px, s.blur_px) * s.mmPerPixel * 1e-3;
    for (double start = s.off_s; start < t; start += pulse) {
        sum += lineSourceRise_k(s.plate, 1, r_m, t - start);
        sum -= lineSourceRise_k(s.plate, 1, r_m, t - start - s.on_s);
    }
    return sum;
}

} // namespace

Recording render(const std::vector<RenderedSource>& sources, const RenderSettings& s) {
    Recording recording;
    recording.info = {s.width, s.height, s.rate_hz, s.netd_mk, 25, Side::Top};
    Random random(s.seed);
    const double pulse = s.on_s + s.off_s;
    // The course depends on distance alone: tabulated once a frame over a quarter of a pixel.
    const int steps = 4 * static_cast<int>(std::hypot(s.width, s.height)) + 8;
    const int frames = static_cast<int>(s.seconds * s.rate_hz);
    for (int f = 0; f < frames; ++f) {
        const double t = f / s.rate_hz;
        const bool frozen = s.jumpAt_s >= 0 && t >= s.jumpAt_s && t < s.jumpAt_s + 0.3;
        if (frozen && f > 0) {
            recording.frames.push_back({t, recording.frames.back().centikelvin.clone()});
            continue;
        }
        std::vector<double> course(static_cast<std::size_t>(steps));
        for (int i = 0; i < steps; ++i)
            course[static_cast<std::size_t>(i)] = rise(s, i / 4.0, t, pulse);
        const double common = 298.15 + s.drift_k_per_s * t + (s.jumpAt_s >= 0 && t >= s.jumpAt_s ? 0.5 : 0);
        cv::Mat picture(s.height, s.width, CV_16UC1);
        for (int y = 0; y < s.height; ++y)
            for (int x = 0; x < s.width; ++x) {
                double kelvin = common + s.netd_mk * 1e-3 * random.normal();
                for (const auto& source : sources) {
                    const double at = 4 * std::hypot(x - source.at.x_px, y - source.at.y_px);
                    const auto i = static_cast<std::size_t>(at);
                    kelvin +=
                        source.watts * (course[i] + (at - std::floor(at)) * (course[i + 1] - course[i]));
                }
                picture.at<std::uint16_t>(y, x) = static_cast<std::uint16_t>(std::lround(kelvin * 100));
            }
        recording.frames.push_back({t, picture});
    }
    double total = 0;
    for (const auto& source : sources)
        total += source.watts;
    if (sources.empty()) total = 0.01; // power flows somewhere out of the picture
    for (double t = 0; t < s.seconds + 0.2; t += 0.02) {
        const double phase = std::fmod(t, pulse);
        const bool on = phase >= s.off_s;
        recording.supply.push_back({t + s.clockAhead_s, on, 1, 1, on ? 1.0 : 0.0, on ? total : 0.0});
    }
    return recording;
}

} // namespace ustor::testing
