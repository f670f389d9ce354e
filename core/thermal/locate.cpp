#include "thermal/locate.h"

#include "thermal/power.h"
#include "thermal/power_lags.h"
#include "thermal/repaired.h"
#include "thermal/switching.h"

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

StepResponse::Baseline baselineFor(const LeftOut& leftOut) {
    return leftOut.count(Repair::Bending) ? StepResponse::Baseline::Straight
                                          : StepResponse::Baseline::Bending;
}

ChanceFloor floorOf(const StepResponse& response, StepResponse::Baseline baseline, const SpotScale& scale,
                    const LeftOut& leftOut) {
    const cv::Size size(response.width(), response.height());
    return floorFrom(leftOut.count(Repair::Restless) ? ChanceMaps() : response.chance(baseline), size, scale);
}

struct Candidate {
    double instant_s = 0;
    std::vector<HeatSource> sources;
};

/// The earliest instants are sharpest and noisiest: the one that fixes its strongest spot best wins.
Candidate bestInstant(const StepResponse& response, const LeftOut& leftOut, double least = leastSnr) {
    Candidate best;
    const auto baseline = baselineFor(leftOut);
    const ChanceFloor floor = floorOf(response, baseline, SpotScale::near(), leftOut);
    for (const double t : instants_s) {
        const auto maps = response.at(t, baseline);
        auto found = findSources(maps, floor, least, mostSources);
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
/// `widestPart_px`: deviation of the spot of a large part that is heated as a whole.
WideHeat wideHeat(const StepResponse& response, double widestPart_px, const LeftOut& leftOut) {
    constexpr std::array<double, 4> times_s{0.6, 1.2, 2.5, 5.0};
    constexpr double certainSnr = 5.5, weakSnr = 4, narrowest_px = 2.5, freeGrowth = 0.15, modelShare = 0.08;
    const SpotScale scale = SpotScale::far();
    const ChanceFloor floor = floorOf(response, StepResponse::Baseline::Straight, scale, leftOut);
    WideHeat wide;
    std::vector<std::pair<double, HeatSource>> course;
    double best = 0;
    for (const double t : times_s) {
        const auto maps = response.at(t, StepResponse::Baseline::Straight);
        const auto found = findSources(maps, floor, weakSnr, 1);
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
    const int x = columnOf(wide.spot), y = rowOf(wide.spot);
    const double soon = response.at(0.6, x, y, StepResponse::Baseline::Straight),
                 later = response.at(1.2, x, y, StepResponse::Baseline::Straight);
    // What answers more than in proportion to time is heated here, however wide it is.
    constexpr double delayed = 0.6;
    if (growth > freeGrowth && bounded && soon < delayed * later)
        wide.verdict = HeatVerdict::FarSide;
    else // a chip whose die heats it over some millimetres is a part too
        wide.verdict = wide.spot.width_px < widestPart_px ? HeatVerdict::Point : HeatVerdict::Spread;
    wide.spot.sigma_px = std::hypot(wide.spot.sigma_px, modelShare * wide.spot.width_px);
    return wide;
}

StepResponse accumulate(const std::vector<SupplySample>& supply, const RepairedFrames& repaired,
                        double offset_s) {
    const cv::Size size = repaired.rises_k.front().size();
    StepResponse response(size.width, size.height);
    for (std::size_t i = 0; i < repaired.times_s.size(); ++i)
        response.add(repaired.times_s[i], deliveredPower_w(supply, repaired.times_s[i], offset_s),
                     repaired.rises_k[i], repaired.covered[i]);
    return response;
}

/// How far the clocks are apart: the offset at which lags of the power and a bending baseline leave least of
/// the strongest spot's own course. Frames that no offset explains (a hand over the spot) do not count.
class OffsetSearch {
  public:
    OffsetSearch(const std::vector<SupplySample>& supply, const RepairedFrames& repaired, PixelPoint spot)
        : m_supply(supply), m_times_s(repaired.times_s),
          m_course_k(static_cast<long>(repaired.times_s.size())),
          m_counts(Eigen::VectorXd::Ones(m_course_k.size())) {
        const int x =
            std::clamp(static_cast<int>(std::lround(spot.x_px)) - 1, 0, repaired.rises_k.front().cols - 3);
        const int y =
            std::clamp(static_cast<int>(std::lround(spot.y_px)) - 1, 0, repaired.rises_k.front().rows - 3);
        for (long i = 0; i < m_course_k.size(); ++i)
            m_course_k[i] = cv::mean(repaired.rises_k[i](cv::Rect(x, y, 3, 3)))[0];
        makeBaseline();
    }

    double best() {
        constexpr int rounds = 3;
        double best_s = 0;
        for (int i = 0; i < rounds; ++i) {
            best_s = leastDoubtful();
            if (i + 1 < rounds) countOnly(left(best_s));
        }
        return best_s;
    }

  private:
    /// Leaves out frames far beyond what is usually left over.
    void countOnly(const Eigen::VectorXd& left) {
        constexpr double deviations = 5;
        const double most = deviations * usualSize(left);
        m_counts = (left.array().abs() <= most).cast<double>();
    }

    double leastDoubtful() const {
        constexpr double reach_s = 0.4, step_s = 0.02;
        double best_s = 0, least = doubt(0);
        for (double offset = -reach_s; offset <= reach_s + step_s / 2; offset += step_s)
            if (const double found = doubt(offset); found < least) {
                least = found;
                best_s = offset;
            }
        // Finer: the lowest point of the parabola through the neighbours.
        const double a = doubt(best_s - step_s), b = doubt(best_s + step_s), bend = a + b - 2 * least;
        return bend > 0 ? best_s + std::clamp(step_s * (a - b) / (2 * bend), -step_s, step_s) : best_s;
    }

    /// Minus the logarithm of the odds. A part that warms slowly says little about the clocks, and what is
    /// left over of it is no white noise: clocks far apart need evidence.
    double doubt(double offset_s) const {
        constexpr double usual_s = 0.08, framesPerEvidence = 10;
        const double squares = left(offset_s).cwiseProduct(m_counts).squaredNorm();
        return 0.5 * m_counts.sum() / framesPerEvidence * std::log(std::max(1e-300, squares)) +
               0.5 * offset_s * offset_s / (usual_s * usual_s);
    }

    /// What is left over of the course, of every frame.
    Eigen::VectorXd left(double offset_s) const {
        const Eigen::MatrixXd lags = powerLags(m_supply, m_times_s, offset_s);
        Eigen::MatrixXd terms(lags.rows(), lags.cols() + m_baseline.cols());
        terms << lags, m_baseline;
        return leftOver(m_course_k, terms, m_counts);
    }

    /// Linear between knots.
    void makeBaseline() {
        constexpr double knot_s = 6;
        const double start_s = m_times_s.front();
        m_baseline = Eigen::MatrixXd::Zero(m_course_k.size(),
                                           static_cast<int>((m_times_s.back() - start_s) / knot_s) + 2);
        for (long i = 0; i < m_baseline.rows(); ++i) {
            const double place = (m_times_s[i] - start_s) / knot_s;
            const int knot = static_cast<int>(place);
            m_baseline(i, knot) = 1 - (place - knot);
            m_baseline(i, knot + 1) = place - knot;
        }
    }

    const std::vector<SupplySample>& m_supply;
    std::vector<double> m_times_s;
    Eigen::VectorXd m_course_k; ///< of each frame
    Eigen::VectorXd m_counts;   ///< 1 where the frame counts, 0 where it does not
    Eigen::MatrixXd m_baseline; ///< frames x knots
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
                           double thickness_mm, const LeftOut& leftOut) {
    LocateResult result;
    if (!response.ready()) return result;
    result.noise_k = response.noise_k();
    Candidate best = bestInstant(response, leftOut);
    const double widest_px = 0.98 * SpotScale::near().widest;
    std::erase_if(best.sources, [&](const HeatSource& spot) {
        return spot.width_px > widest_px || !comesAtOnce(response, spot);
    });
    auto baseline = baselineFor(leftOut);
    result.verdict = HeatVerdict::Point;
    if (best.sources.empty()) {
        constexpr double widestPart_mm = 3.2,
                         widestPart_px = 6.5; // the latter where a pixel's size is not known
        const PixelPoint middle{response.width() / 2.0, response.height() / 2.0};
        const WideHeat wide =
            wideHeat(response,
                     registration ? widestPart_mm * registration->pixelsPerMm(registration->toBoard(middle))
                                  : widestPart_px,
                     leftOut);
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

namespace {

/// What the supply told, or, where it told nothing, what the frames tell of it: of the sequences that some
/// place follows, the one that a spot follows most clearly.
Result<std::vector<SupplySample>> powerOf(const Recording& recording, const RepairedFrames& repaired,
                                          const LeftOut& leftOut, LocateResult& about) {
    if (meanOnPower_w(recording.supply) > 0) return recording.supply;
    // A place a little aside answers late; what stands far from it follows by chance.
    constexpr double nearby_px = 20, least = 10;
    constexpr int looks = 3;
    double clearest = least;
    FoundSwitching best;
    for (FoundSwitching& found : findSwitching(repaired)) {
        double snr = 0;
        for (int look = 0; look < looks; ++look) {
            const StepResponse response = accumulate(found.supply(), repaired, 0);
            if (!response.ready()) break;
            const Candidate spots = bestInstant(response, leftOut, leastSnr);
            if (spots.sources.empty()) break;
            const HeatSource& spot = spots.sources.front();
            const double off_px = distance_px(spot.at, found.at);
            if (off_px > nearby_px) break;
            snr = spot.snr;
            constexpr double same_px = 1;
            if (off_px < same_px) break;
            sharpenAt(found, spot.at, repaired);
        }
        if (snr <= clearest) continue;
        clearest = snr;
        best = found;
    }
    if (best.times_s.empty())
        return Error{"the supply delivered no power during the recording, and no place in the picture was "
                     "switched on and off",
                     "recording", "nothing can follow it"};
    about.switchedFromFrames = true;
    about.notes.push_back("the supply told no power: " + std::to_string(best.times_s.size()) +
                          " switchings were found from the frames; powers are in units of what was fed");
    return best.supply();
}

} // namespace

Result<StepResponse> responseOf(const Recording& recording, const LeftOut& leftOut, LocateResult* told) {
    const std::string where = "recording";
    LocateResult about;
    if (recording.frames.size() < 20) return Error{"fewer than 20 frames", where, "record for some seconds"};
    RepairedFrames repaired = repairFrames(recording, leftOut);
    const auto power = powerOf(recording, repaired, leftOut, about);
    if (!power) return power.error();
    const std::vector<SupplySample>& supply = power.value();
    if (!leftOut.count(Repair::Passing)) leaveOutPassing(repaired, supply);
    StepResponse response = accumulate(supply, repaired, 0);
    const bool clocks = !leftOut.count(Repair::Clocks) && !about.switchedFromFrames;
    if (response.ready() && clocks) {
        // With the clocks apart even a strong source looks unlike the power: a weak likeness will do.
        constexpr double likeness = 3;
        const Candidate first = bestInstant(response, leftOut, likeness);
        if (!first.sources.empty())
            about.clockOffset_s = OffsetSearch(supply, repaired, first.sources.front().at).best();
        if (about.clockOffset_s != 0) {
            response = accumulate(supply, repaired, about.clockOffset_s);
            repaired.done.push_back(
                {Repair::Clocks, "the supply's clock was " +
                                     std::to_string(std::lround(1e3 * about.clockOffset_s)) +
                                     " ms ahead of the frames': brought together"});
        }
    }
    if (!response.ready())
        return Error{"the power never changed while the camera looked", where, "pulse the output"};
    about.repairs = repaired.done;
    about.undone = repaired.undone;
    if (told) *told = about;
    return response;
}

Result<LocateResult> locateInRecording(const Recording& recording, const Registration* registration,
                                       double thickness_mm, const LeftOut& leftOut) {
    LocateResult about;
    const auto response = responseOf(recording, leftOut, &about);
    if (!response) return response.error();
    const double meanWatts = about.switchedFromFrames ? 1 : meanOnPower_w(recording.supply);
    LocateResult result = locateSources(response.value(), meanWatts, registration, thickness_mm, leftOut);
    result.clockOffset_s = about.clockOffset_s;
    result.switchedFromFrames = about.switchedFromFrames;
    result.repairs = about.repairs;
    result.undone = about.undone;
    result.notes = about.notes;
    result.notes.insert(result.notes.end(), recording.warnings.begin(), recording.warnings.end());
    return result;
}

} // namespace ustor
