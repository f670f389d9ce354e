#include "thermal/locate.h"

#include "thermal/power.h"

#include <Eigen/Dense>
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

int columnOf(const HeatSource& spot) {
    return static_cast<int>(std::lround(spot.at.x_px));
}
int rowOf(const HeatSource& spot) {
    return static_cast<int>(std::lround(spot.at.y_px));
}

/// How late a spot follows: the time at which the response reaches half of what it has after five seconds.
double delayOf(const StepResponse& response, const HeatSource& spot, StepResponse::Baseline baseline) {
    const int x = columnOf(spot), y = rowOf(spot);
    const double late = response.at(5.0, x, y, baseline);
    if (late <= 0) return 0;
    double low = 0, high = 5.0;
    for (int i = 0; i < 30; ++i) {
        const double middle = (low + high) / 2;
        (response.at(middle, x, y, baseline) < late / 2 ? low : high) = middle;
    }
    return (low + high) / 2;
}

/// Heat that has to cross the board comes late: of what a near part shows after two seconds, most is there
/// after half of one.
bool comesAtOnce(const StepResponse& response, const HeatSource& spot) {
    constexpr double early_s = 0.6, late_s = 2.5, share = 0.45;
    const int x = columnOf(spot), y = rowOf(spot);
    return response.at(early_s, x, y, StepResponse::Baseline::Straight) >
           share * response.at(late_s, x, y, StepResponse::Baseline::Straight);
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
Candidate bestInstant(const StepResponse& response, double least = leastSnr) {
    Candidate best;
    const auto chance = response.chance();
    const ChanceFloor floor = floorFrom(chance, chance.front().size());
    for (const double t : instants_s) {
        const auto maps = response.at(t);
        auto found = findSources(maps.rise_k_per_w, floor, maps.sigma_k_per_w, least, mostSources);
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

/// What is warm over many pixels.
struct WideHeat {
    HeatVerdict verdict = HeatVerdict::None;
    double instant_s = 0;
    HeatSource spot;
};

/// A source on the far side grows wider while heat runs on, as the root of time where it is free to; an area
/// that is heated as a whole has its width from the start. The growth tells them apart without knowing the
/// board or the size of a pixel.
WideHeat wideHeat(const StepResponse& response) {
    constexpr std::array<double, 4> times_s{0.6, 1.2, 2.5, 5.0};
    constexpr double certainSnr = 5.5, weakSnr = 4, narrowest_px = 2.5, freeGrowth = 0.15, modelShare = 0.08;
    const SpotScale scale = SpotScale::far();
    const auto chance = response.chance(StepResponse::Baseline::Straight);
    const ChanceFloor floor = floorFrom(chance, chance.front().size(), scale);
    WideHeat wide;
    std::vector<std::pair<double, HeatSource>> course;
    double best = 0;
    for (const double t : times_s) {
        const auto maps = response.at(t, StepResponse::Baseline::Straight);
        const auto found = findSources(maps.rise_k_per_w, floor, maps.sigma_k_per_w, weakSnr, 1);
        if (found.empty() || found.front().width_px < narrowest_px) continue;
        const HeatSource& spot = found.front();
        const bool same = course.empty() || distance_px(course.back().second.at, spot.at) < spot.width_px;
        if (same) course.emplace_back(t, spot);
        // The earlier, the less it is drawn away by copper that conducts better on one side.
        if (spot.snr < certainSnr || spot.snr < 1.3 * best) continue;
        best = spot.snr;
        wide.instant_s = t;
        wide.spot = spot;
    }
    if (best == 0) return wide;
    const auto& [firstTime, first] = course.front();
    const auto& [lastTime, last] = course.back();
    const double growth =
        course.size() < 2 ? 0 : std::log(last.width_px / first.width_px) / std::log(lastTime / firstTime);
    const bool bounded = wide.spot.width_px < 0.98 * scale.widest;
    // A chip whose die heats it over some millimetres is a part too, and answers without a delay.
    constexpr double widestPart_px = 8.5, delayed = 0.55;
    const int x = columnOf(wide.spot), y = rowOf(wide.spot);
    const double soon = response.at(0.6, x, y, StepResponse::Baseline::Straight),
                 later = response.at(1.2, x, y, StepResponse::Baseline::Straight);
    if (soon > delayed * later)
        wide.verdict = wide.spot.width_px < widestPart_px ? HeatVerdict::Point : HeatVerdict::Spread;
    else
        wide.verdict = growth > freeGrowth && bounded ? HeatVerdict::FarSide : HeatVerdict::Spread;
    wide.spot.sigma_px = std::hypot(wide.spot.sigma_px, modelShare * wide.spot.width_px);
    return wide;
}

/// The frames of a recording that can be used, repaired once: they are gone over several times.
struct Repaired {
    std::vector<double> times_s;
    std::vector<cv::Mat> rises_k;
    std::vector<std::string> notes;

    explicit Repaired(const Recording& recording) {
        StreamRepair repair;
        for (const ThermalFrame& frame : recording.frames) {
            auto out = repair.take(frame);
            if (!out.usable || (!times_s.empty() && frame.time_s <= times_s.back())) continue;
            times_s.push_back(frame.time_s);
            rises_k.push_back(std::move(out.kelvin));
        }
        notes = repair.notes();
    }
};

StepResponse accumulate(const Recording& recording, const Repaired& repaired, double offset_s) {
    StepResponse response(recording.info.width, recording.info.height);
    for (std::size_t i = 0; i < repaired.times_s.size(); ++i)
        response.add(repaired.times_s[i], deliveredPower_w(recording.supply, repaired.times_s[i], offset_s),
                     repaired.rises_k[i]);
    return response;
}

/// How far the clocks are apart: the offset at which lags of the power and a bending baseline leave least of
/// the strongest spot's own course.
class OffsetSearch {
  public:
    OffsetSearch(const Recording& recording, const Repaired& repaired, PixelPoint spot)
        : m_supply(recording.supply), m_times_s(repaired.times_s) {
        const int x = std::clamp(static_cast<int>(std::lround(spot.x_px)) - 1, 0, recording.info.width - 3);
        const int y = std::clamp(static_cast<int>(std::lround(spot.y_px)) - 1, 0, recording.info.height - 3);
        for (const cv::Mat& rise_k : repaired.rises_k)
            m_course_k.push_back(cv::mean(rise_k(cv::Rect(x, y, 3, 3)))[0]);
    }

    double best() const {
        constexpr double reach_s = 0.3, step_s = 0.02, worth = 0.999;
        double best_s = 0, least = leftOver(0);
        for (double offset = -reach_s; offset <= reach_s + step_s / 2; offset += step_s)
            if (const double left = leftOver(offset); left < least * worth) {
                least = left;
                best_s = offset;
            }
        // Finer: the lowest point of the parabola through the neighbours.
        const double a = leftOver(best_s - step_s), b = leftOver(best_s + step_s), bend = a + b - 2 * least;
        return bend > 0 ? best_s + std::clamp(step_s * (a - b) / (2 * bend), -step_s, step_s) : best_s;
    }

  private:
    double leftOver(double offset_s) const {
        constexpr double knot_s = 6;
        const auto frames = static_cast<int>(m_times_s.size());
        const double start_s = m_times_s.front();
        const int knots = static_cast<int>((m_times_s.back() - start_s) / knot_s) + 2;
        Eigen::MatrixXd model = Eigen::MatrixXd::Zero(frames, LagBank::lags + knots);
        LagBank bank;
        for (int i = 0; i < frames; ++i) {
            bank.goTo(m_times_s[i], deliveredPower_w(m_supply, m_times_s[i], offset_s));
            for (int k = 0; k < LagBank::lags; ++k)
                model(i, k) = bank[k];
            const double place = (m_times_s[i] - start_s) / knot_s;
            const int knot = static_cast<int>(place);
            model(i, LagBank::lags + knot) = 1 - (place - knot);
            model(i, LagBank::lags + knot + 1) = place - knot;
        }
        const Eigen::VectorXd scale = model.colwise().norm().cwiseMax(1e-300).cwiseInverse();
        model = model * scale.asDiagonal();
        const Eigen::Map<const Eigen::VectorXd> course(m_course_k.data(), frames);
        Eigen::MatrixXd gram = model.transpose() * model;
        gram.diagonal().array() += 1e-9;
        const Eigen::VectorXd fit = gram.ldlt().solve(model.transpose() * course);
        return (course - model * fit).squaredNorm();
    }

    const std::vector<SupplySample>& m_supply;
    std::vector<double> m_times_s, m_course_k;
};

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
    Candidate best = bestInstant(response);
    const double widest_px = 0.98 * SpotScale::near().widest;
    std::erase_if(best.sources, [&](const HeatSource& spot) {
        return spot.width_px > widest_px || !comesAtOnce(response, spot);
    });
    auto baseline = StepResponse::Baseline::Bending;
    result.verdict = HeatVerdict::Point;
    if (best.sources.empty()) {
        const WideHeat wide = wideHeat(response);
        result.verdict = wide.verdict;
        if (wide.verdict == HeatVerdict::FarSide || wide.verdict == HeatVerdict::Point)
            best = {wide.instant_s, {wide.spot}};
        baseline = StepResponse::Baseline::Straight;
    }
    result.shownAt_s = best.sources.empty() ? 0 : best.instant_s;
    for (const HeatSource& spot : best.sources) {
        LocatedSource source;
        source.spot = spot;
        double mmPerPixel = 0.5;
        if (registration) {
            source.board = registration->toBoard(spot.at);
            mmPerPixel = 1 / registration->pixelsPerMm(*source.board);
            source.sigma_mm = std::hypot(spot.sigma_px * mmPerPixel, registration->sigma_mm());
        }
        source.delay_s = delayOf(response, spot, baseline);
        source.power_mw =
            1e3 * meanWatts * powerShare(response, spot, best.instant_s, mmPerPixel, thickness_mm);
        result.sources.push_back(source);
    }
    return result;
}

Result<StepResponse> responseOf(const Recording& recording, LocateResult* about) {
    const std::string where = "recording";
    if (recording.frames.size() < 20) return Error{"fewer than 20 frames", where, "record for some seconds"};
    if (meanOnPower_w(recording.supply) <= 0)
        return Error{"the supply delivered no power during the recording", where, "nothing can follow it"};
    const Repaired repaired(recording);
    StepResponse response = accumulate(recording, repaired, 0);
    double offset_s = 0;
    if (response.ready()) {
        // With the clocks apart even a strong source looks unlike the power: a weak likeness will do.
        constexpr double likeness = 3;
        const Candidate first = bestInstant(response, likeness);
        if (!first.sources.empty())
            offset_s = OffsetSearch(recording, repaired, first.sources.front().at).best();
        if (offset_s != 0) response = accumulate(recording, repaired, offset_s);
    }
    if (!response.ready())
        return Error{"the power never changed while the camera looked", where, "pulse the output"};
    if (about) {
        about->clockOffset_s = offset_s;
        about->notes = repaired.notes;
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
