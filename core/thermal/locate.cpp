#include "thermal/locate.h"

#include "thermal/power.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace ustor {
namespace {

/// Instants after switch-on that are tried, the sharpest first.
constexpr std::array<double, 5> instants_s{0.3, 0.6, 1.2, 2.5, 5.0};
constexpr double leastSnr = 6.5;
constexpr int mostSources = 6;

/// How late a spot follows: the time at which the response reaches half of what it has after five seconds.
double delayOf(const StepResponse& response, const HeatSource& spot) {
    const int x = static_cast<int>(std::lround(spot.at.x_px)),
              y = static_cast<int>(std::lround(spot.at.y_px));
    const double late = response.at(5.0, x, y);
    if (late <= 0) return 0;
    double low = 0, high = 5.0;
    for (int i = 0; i < 30; ++i) {
        const double middle = (low + high) / 2;
        (response.at(middle, x, y) < late / 2 ? low : high) = middle;
    }
    return (low + high) / 2;
}

/// Watts per watt delivered that the spot must hold: stored heat of the fitted spot two face layers deep
/// after t.
double powerShare(const StepResponse& response, const HeatSource& spot, double t, double mmPerPixel,
                  double thickness_mm) {
    constexpr double heatCapacity_j_m3k = 2e6;
    const double width_m = spot.width_px * mmPerPixel * 1e-3;
    const double area_m2 = 2 * std::numbers::pi * width_m * width_m;
    const int x = static_cast<int>(std::lround(spot.at.x_px)),
              y = static_cast<int>(std::lround(spot.at.y_px));
    const double rise = std::max(0.0, response.at(t, x, y));
    return rise * area_m2 * heatCapacity_j_m3k * thickness_mm * 1e-3 / t;
}

struct Candidate {
    double instant_s = 0;
    std::vector<HeatSource> sources;
};

/// The earliest instants are sharpest and noisiest: the one that fixes its strongest spot best wins.
Candidate bestInstant(const StepResponse& response) {
    Candidate best;
    for (const double t : instants_s) {
        const auto maps = response.at(t);
        auto found = findSources(maps.rise_k_per_w, maps.sigma_k_per_w, leastSnr, mostSources);
        if (found.empty()) continue;
        // Spreading moves a late spot by its neighbours' heat: a part of its width counts as doubt of the
        // model.
        const auto doubt = [](const HeatSource& s) {
            return s.sigma_px * s.sigma_px + 4e-3 * s.width_px * s.width_px;
        };
        if (best.sources.empty() || doubt(found.front()) < doubt(best.sources.front()))
            best = {t, std::move(found)};
    }
    for (HeatSource& s : best.sources)
        s.sigma_px = std::sqrt(s.sigma_px * s.sigma_px + 4e-3 * s.width_px * s.width_px);
    return best;
}

/// A warm area without a point: the smoothed late map stands far above its noise.
bool spreadsWide(const StepResponse& response) {
    const auto late = response.at(5.0);
    constexpr int block = 16;
    std::vector<double> means;
    for (int y = 0; y + block <= late.rise_k_per_w.rows; y += block)
        for (int x = 0; x + block <= late.rise_k_per_w.cols; x += block)
            means.push_back(cv::mean(late.rise_k_per_w(cv::Rect(x, y, block, block)))[0]);
    if (means.size() < 6) return false;
    std::sort(means.begin(), means.end());
    const double middle = means[means.size() / 2];
    std::vector<double> away;
    for (const double m : means)
        away.push_back(std::fabs(m - middle));
    std::nth_element(away.begin(), away.begin() + static_cast<long>(away.size() / 2), away.end());
    const double spread = std::max(away[away.size() / 2] * 1.4826, late.sigma_k_per_w / block);
    return means.back() - middle > 8 * spread;
}

StepResponse accumulate(const Recording& recording, double offset_s, std::vector<std::string>* notes) {
    StepResponse response(recording.info.width, recording.info.height);
    StreamRepair repair;
    for (const ThermalFrame& frame : recording.frames) {
        const auto out = repair.take(frame);
        if (out.usable)
            response.add(frame.time_s, deliveredPower_w(recording.supply, frame.time_s, offset_s),
                         out.kelvin);
    }
    if (notes) *notes = repair.notes();
    return response;
}

/// The strongest spot's own course, cut out as a small recording, tells how far the clocks are apart: the
/// offset at which the model leaves the least over.
double estimateOffset(const Recording& recording, PixelPoint spot) {
    const int x = std::clamp(static_cast<int>(std::lround(spot.x_px)) - 1, 0, recording.info.width - 3);
    const int y = std::clamp(static_cast<int>(std::lround(spot.y_px)) - 1, 0, recording.info.height - 3);
    struct Point {
        double time_s;
        cv::Mat patch;
    };
    std::vector<Point> course;
    StreamRepair repair;
    for (const ThermalFrame& frame : recording.frames) {
        const auto out = repair.take(frame);
        if (!out.usable) continue;
        const cv::Mat mean(1, 1, CV_32FC1, cv::Scalar(cv::mean(out.kelvin(cv::Rect(x, y, 3, 3)))[0]));
        course.push_back({frame.time_s, mean.clone()});
    }
    const auto leftOver = [&](double offset_s) {
        StepResponse one(1, 1);
        for (const Point& p : course)
            one.add(p.time_s, deliveredPower_w(recording.supply, p.time_s, offset_s), p.patch);
        return one.ready() ? one.noise_k() : 1e9;
    };
    double best = 0, least = leftOver(0);
    for (double offset = -0.3; offset <= 0.3001; offset += 0.02)
        if (const double left = leftOver(offset); left < least * 0.999) {
            least = left;
            best = offset;
        }
    return best;
}

} // namespace

std::string_view wordOf(HeatVerdict verdict) {
    switch (verdict) {
    case HeatVerdict::Point:
        return "point";
    case HeatVerdict::FarSide:
        return "far side";
    case HeatVerdict::Spread:
        return "spread";
    case HeatVerdict::None:
        return "none";
    }
    return "none";
}

std::optional<HeatVerdict> heatVerdictFromWord(std::string_view word) {
    for (const auto v : {HeatVerdict::Point, HeatVerdict::FarSide, HeatVerdict::Spread, HeatVerdict::None})
        if (wordOf(v) == word) return v;
    return std::nullopt;
}

LocateResult locateSources(const StepResponse& response, double meanWatts, const Registration* registration,
                           double thickness_mm) {
    LocateResult result;
    if (!response.ready()) return result;
    result.noise_k = response.noise_k();
    const Candidate best = bestInstant(response);
    result.shownAt_s = best.instant_s;
    for (const HeatSource& spot : best.sources) {
        LocatedSource source;
        source.spot = spot;
        double mmPerPixel = 0.5;
        if (registration) {
            source.board = registration->toBoard(spot.at);
            mmPerPixel = 1 / registration->pixelsPerMm(*source.board);
            source.sigma_mm = std::hypot(spot.sigma_px * mmPerPixel, registration->sigma_mm());
        }
        source.delay_s = delayOf(response, spot);
        source.power_mw =
            1e3 * meanWatts * powerShare(response, spot, best.instant_s, mmPerPixel, thickness_mm);
        result.sources.push_back(source);
    }
    if (result.sources.empty()) {
        result.verdict = spreadsWide(response) ? HeatVerdict::Spread : HeatVerdict::None;
        return result;
    }
    // Heat that has to cross the board comes late and wide; a part that holds its own heat is at once narrow.
    const LocatedSource& first = result.sources.front();
    const bool late = first.delay_s > 1.4 && best.instant_s >= 1.2 && first.spot.width_px > 2.6;
    result.verdict = late ? HeatVerdict::FarSide : HeatVerdict::Point;
    return result;
}

Result<StepResponse> responseOf(const Recording& recording, LocateResult* about) {
    const std::string where = "recording";
    if (recording.frames.size() < 20) return Error{"fewer than 20 frames", where, "record for some seconds"};
    if (meanOnPower_w(recording.supply) <= 0)
        return Error{"the supply delivered no power during the recording", where, "nothing can follow it"};
    std::vector<std::string> notes;
    StepResponse response = accumulate(recording, 0, &notes);
    double offset_s = 0;
    if (response.ready()) {
        const Candidate first = bestInstant(response);
        if (!first.sources.empty()) offset_s = estimateOffset(recording, first.sources.front().at);
        if (offset_s != 0) response = accumulate(recording, offset_s, nullptr);
    }
    if (!response.ready())
        return Error{"the power never changed while the camera looked", where, "pulse the output"};
    if (about) {
        about->clockOffset_s = offset_s;
        about->notes = notes;
    }
    return response;
}

Result<LocateResult> locateInRecording(const Recording& recording, const Registration* registration,
                                       double thickness_mm) {
    LocateResult about;
    const auto response = responseOf(recording, &about);
    if (!response) return response.error();
    LocateResult result =
        locateSources(response.value(), meanOnPower_w(recording.supply), registration, thickness_mm);
    result.clockOffset_s = about.clockOffset_s;
    result.notes = about.notes;
    result.notes.insert(result.notes.end(), recording.warnings.begin(), recording.warnings.end());
    return result;
}

} // namespace ustor
