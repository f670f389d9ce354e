#include "thermal/locate.h"

#include "thermal/clock_offset.h"
#include "thermal/gathered_heat.h"
#include "thermal/power.h"
#include "thermal/power_evidence.h"
#include "thermal/switching.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <opencv2/imgproc.hpp>

namespace ustor {
namespace {

/// Instants after switch-on that are tried, the sharpest first. What shows only later is no part on this
/// side.
constexpr std::array<double, 4> instants_s{0.3, 0.6, 1.2, 2.5};
constexpr double leastSnr = 6.5;
constexpr int mostSources = 6;
/// Spreading moves a spot by its neighbours' heat: this part of its width counts as doubt of the model.
constexpr double modelShare = 0.07;

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
/// after half of one. Only what stands out of the noise counts against a spot.
bool comesAtOnce(const StepResponse& response, const HeatSource& spot) {
    constexpr double early_s = 0.6, late_s = 2.5, share = 0.45, pixels = 3;
    const auto early = response.at(early_s, StepResponse::Baseline::Shared),
               late = response.at(late_s, StepResponse::Baseline::Shared);
    const cv::Rect around = cv::Rect(columnOf(spot) - 1, rowOf(spot) - 1, 3, 3) &
                            cv::Rect(0, 0, response.width(), response.height());
    const double missing =
        share * cv::mean(late.rise_k_per_w(around))[0] - cv::mean(early.rise_k_per_w(around))[0];
    return missing < std::hypot(early.sigma_k_per_w, share * late.sigma_k_per_w) / pixels;
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
    return leftOut.count(Repair::Bending) ? StepResponse::Baseline::Shared : StepResponse::Baseline::Bending;
}

ChanceFloor floorOf(const StepResponse& response, StepResponse::Baseline baseline, const SpotScale& scale,
                    const LeftOut& leftOut) {
    const cv::Size size(response.width(), response.height());
    if (leftOut.count(Repair::Restless)) return floorFrom({}, size, scale);
    return floorFrom(response.chance(baseline), size, scale,
                     baseline == StepResponse::Baseline::Shared ? response.quiet() : cv::Mat());
}

/// Share of the clearest's signal to noise at which another spot is as clear.
constexpr double alike = 0.85;

/// Several spots as clear as the clearest: mirrors, more than sources.
bool manyAlike(const std::vector<HeatSource>& spots) {
    constexpr long many = 3;
    return std::count_if(spots.begin(), spots.end(), [&](const HeatSource& spot) {
               return spot.snr > alike * spots.front().snr;
           }) >= many;
}

struct Candidate {
    double instant_s = 0;
    std::vector<HeatSource> sources;
    bool crowd = false; ///< many are alike
    cv::Mat weight;     ///< of each pixel, in the best of them
};

/// One quick lag alone is wrong in shape, but free of most of what noise costs; those that are asked.
constexpr int quickLags = 2;

/// What shows by one lag alone, where nothing shows else. There are fewer ways to be fooled than among all
/// instants, so less is asked of the signal; but a part stands alone and answers at once, while mirrors come
/// in numbers and answer slowly at least as well. What stands all alone needs least: chance makes no second
/// best that is so far behind.
std::vector<HeatSource> whispersIn(const StepResponse& response, const ChanceFloor& floor,
                                   StepResponse::Baseline baseline, int lag) {
    constexpr double least = 5.2, leastAlone = 4.5, seen = 3, alone = 0.8, allAlone = 0.72;
    auto found = findSources(response.matched(lag, baseline), floor, seen, mostSources);
    if (found.empty()) return {};
    const double first = found.front().snr, second = found.size() > 1 ? found[1].snr : 0;
    if (first < leastAlone || (first < least && second > allAlone * first)) return {};
    if (first < leastSnr) {
        const auto slow = findSources(response.matched(quickLags, baseline), floor, seen, 1);
        if (second > alone * first || (!slow.empty() && slow.front().snr >= first)) return {};
    }
    std::erase_if(found, [&](const HeatSource& s) { return s.snr < std::min(least, first); });
    return found;
}

/// The earliest instants are sharpest and noisiest: of those that show the spot clearly, the one that fixes
/// its strongest spot best wins.
Candidate bestInstant(const StepResponse& response, const LeftOut& leftOut, double least = leastSnr) {
    const auto baseline = baselineFor(leftOut);
    const ChanceFloor floor = floorOf(response, baseline, SpotScale::near(), leftOut);
    std::vector<Candidate> candidates;
    double clearest = 0;
    const auto take = [&](double instant_s, std::vector<HeatSource> found, double fewest) {
        const bool crowd = manyAlike(found);
        std::erase_if(found, [&](const HeatSource& s) { return s.snr < fewest; });
        if (found.empty()) return;
        clearest = std::max(clearest, found.front().snr);
        candidates.push_back({instant_s, std::move(found), crowd, {}});
    };
    const auto look = [&](double instant_s, const StepResponse::Maps& maps) {
        take(instant_s, findSources(maps, floor, alike * least, mostSources), least);
    };
    for (const double t : instants_s)
        look(t, response.at(t, baseline));
    const bool whisper = candidates.empty() && least >= leastSnr;
    for (int lag = 0; lag < quickLags; ++lag)
        if (whisper)
            take(instants_s.front(), whispersIn(response, floor, baseline, lag), 0);
        else
            look(instants_s.front(), response.matched(lag, baseline));
    Candidate best;
    constexpr double clear = 0.5;
    for (Candidate& candidate : candidates) {
        for (HeatSource& s : candidate.sources)
            s.sigma_px = std::hypot(s.sigma_px, modelShare * s.width_px);
        if (candidate.sources.front().snr < clear * clearest) continue;
        if (best.sources.empty() || candidate.sources.front().sigma_px < best.sources.front().sigma_px)
            best = std::move(candidate);
    }
    best.weight = floor.band.weight();
    return best;
}

/// What is warm over many pixels.
struct WideHeat {
    HeatVerdict verdict = HeatVerdict::None;
    double instant_s = 0;
    HeatSource spot;
};

/// Mean response of a disk, with its standard deviation under camera noise. One pixel alone is too noisy to
/// tell a course, and mirrors do not count.
struct MeanResponse {
    double rise_k_per_w = 0, sigma_k_per_w = 0;
};
MeanResponse meanResponse(const StepResponse& response, const HeatSource& spot, double seconds) {
    const auto maps = response.at(seconds, StepResponse::Baseline::Shared);
    const cv::Mat &map = maps.rise_k_per_w, &weight = response.quiet();
    const double reach = std::max(2.0, spot.width_px);
    double sum = 0, weights = 1e-12;
    for (int y = std::max(0, rowOf(spot) - static_cast<int>(reach));
         y < map.rows && y <= spot.at.y_px + reach; ++y)
        for (int x = std::max(0, columnOf(spot) - static_cast<int>(reach));
             x < map.cols && x <= spot.at.x_px + reach; ++x) {
            if (std::hypot(x - spot.at.x_px, y - spot.at.y_px) > reach) continue;
            const double w = weight.at<float>(y, x);
            sum += w * static_cast<double>(map.at<float>(y, x));
            weights += w;
        }
    return {sum / weights, maps.sigma_k_per_w / std::sqrt(weights)};
}

/// d ln(width) / d ln(time) of one spot seen at several instants, by least squares with the square of signal
/// to noise as weight; nothing where it is seen at one instant only.
std::optional<double> growthOf(const std::vector<std::pair<double, HeatSource>>& course) {
    double w = 0, wt = 0, wl = 0, wtt = 0, wtl = 0;
    constexpr double clear = 30; // beyond it the model's own error counts
    for (const auto& [time_s, spot] : course) {
        const double weight = std::min(spot.snr, clear) * std::min(spot.snr, clear), t = std::log(time_s),
                     l = std::log(spot.width_px);
        w += weight;
        wt += weight * t;
        wl += weight * l;
        wtt += weight * t * t;
        wtl += weight * t * l;
    }
    const double spread = w * wtt - wt * wt;
    if (spread <= 1e-9 * w * w) return std::nullopt;
    return (w * wtl - wt * wl) / spread;
}

/// Heat that crosses the board comes late and grows wider while it comes, as the root of time where it is
/// free to; what is heated here answers at once, and an area that is heated as a whole has its width from the
/// start. The mean response after 0.6 s over that after 1.2 s: an area heated as a whole and evenly rises in
/// proportion to time, one half, and sooner where it loses heat; a heated face as the root of time; through a
/// slab less than one half (Carslaw and Jaeger: with exp(-d^2 / 4 alpha t)). The two are told together: what
/// comes hardly late must grow the more.
bool fromTheFarSide(const StepResponse& response, const HeatSource& spot, std::optional<double> growth,
                    bool gathered) {
    constexpr double early_s = 0.6, late_s = 1.2, seen = 4, lateAlone = 0.3, usualGrowth = 0.17;
    const MeanResponse first = meanResponse(response, spot, early_s),
                       then = meanResponse(response, spot, late_s);
    if (then.rise_k_per_w < seen * then.sigma_k_per_w)
        return gathered; // what did not show yet then came later
    return first.rise_k_per_w / then.rise_k_per_w < lateAlone + growth.value_or(usualGrowth);
}

/// `widestPart_px`: deviation of the spot of a large part that is heated as a whole.
WideHeat wideHeat(const StepResponse& response, double widestPart_px, const ChanceFloor& floor) {
    constexpr std::array<double, 5> times_s{0.3, 0.6, 1.2, 2.5, 5.0};
    constexpr double certainSnr = 6.5, partSnr = 8, weakSnr = 4, narrowest_px = 2, clearer = 1.3,
                     wideShare = 0.08, partShare = 0.2, gatheredShare = 0.15, clearFar = 12;
    WideHeat wide;
    std::vector<std::pair<double, HeatSource>> all;
    for (const double t : times_s) {
        const auto found =
            findSources(response.at(t, StepResponse::Baseline::Shared), floor, weakSnr, mostSources);
        for (const HeatSource& spot : found)
            if (spot.width_px >= narrowest_px && hasEnd(spot, floor.band.scale())) all.emplace_back(t, spot);
    }
    // The earlier, the less it is drawn away by copper that conducts better on one side.
    double best = 0, evidence = 0;
    for (const auto& [t, spot] : all) {
        if (spot.snr < certainSnr || spot.snr < clearer * best) continue;
        const double own = evidenceOfWide(response, spot);
        if (own < leastOfWide) continue;
        best = spot.snr;
        evidence = own;
        wide.instant_s = t;
        wide.spot = spot;
    }
    // What gathered tells where no single instant does, and overrules what stands elsewhere less clearly and
    // is less surely the power's.
    const auto gathered = gatheredHeat(response);
    const bool same = gathered && distance_px(gathered->spot.at, wide.spot.at) <=
                                      std::max(gathered->spot.width_px, wide.spot.width_px);
    constexpr double sameButClearer = 2;
    const bool byGathered =
        gathered && (best == 0 || (same ? gathered->spot.snr > sameButClearer * best
                                        : gathered->spot.snr > best && gathered->evidence > evidence));
    if (byGathered) {
        wide.instant_s = times_s.back();
        wide.spot = gathered->spot;
    } else if (best == 0) {
        return wide;
    }
    std::vector<std::pair<double, HeatSource>> course;
    for (const auto& one : all) {
        const bool here = distance_px(one.second.at, wide.spot.at) < std::max(2.0, 0.8 * wide.spot.width_px);
        if (here && (course.empty() || course.back().first < one.first)) course.push_back(one);
    }
    std::vector<HeatSource> then;
    for (const auto& [t, spot] : all)
        if (t == wide.instant_s) then.push_back(spot);
    const bool part = wide.spot.width_px < widestPart_px;
    if (fromTheFarSide(response, wide.spot, growthOf(course),
                       byGathered || same)) // which gathers, or must be very clear
        wide.verdict = byGathered || same || best >= clearFar ? HeatVerdict::FarSide : HeatVerdict::None;
    else // a chip whose die heats it over some millimetres is a part too
        wide.verdict = !part ? HeatVerdict::Spread
                       : wide.spot.snr >= partSnr && !manyAlike(then)
                           ? HeatVerdict::Point
                           : HeatVerdict::None; // mirrors look like that too, and come in numbers
    const double share = byGathered                           ? gatheredShare
                         : wide.verdict == HeatVerdict::Point ? partShare
                                                              : wideShare;
    wide.spot.sigma_px = std::hypot(wide.spot.sigma_px, share * wide.spot.width_px);
    return wide;
}

/// A crest on something wide is no point: the wide filter sees more of it, and it is not narrow itself, or it
/// is next to nothing beside what it stands on.
bool isCrest(const StepResponse& response, const HeatSource& spot, double instant_s,
             const ChanceFloor& floor) {
    constexpr double narrow_px = 3, wider = 1.6, farWider = 4, farClearer = 3;
    const auto found =
        findSources(response.at(instant_s, StepResponse::Baseline::Shared), floor, spot.snr, mostSources);
    return std::any_of(found.begin(), found.end(), [&](const HeatSource& wide) {
        if (distance_px(wide.at, spot.at) >= wide.width_px) return false;
        const bool crest =
            spot.width_px >= narrow_px && wide.snr > spot.snr && wide.width_px > wider * spot.width_px;
        const bool ripple = wide.snr > farClearer * spot.snr && wide.width_px > farWider * spot.width_px;
        return crest || ripple;
    });
}

} // namespace

StepResponse responseOf(const RepairedFrames& repaired, const std::vector<SupplySample>& supply,
                        double offset_s) {
    const cv::Size size = repaired.rises_k.picture();
    StepResponse response(size.width, size.height);
    for (std::size_t i = 0; i < repaired.times_s.size(); ++i)
        response.add(repaired.times_s[i], deliveredPower_w(supply, repaired.times_s[i], offset_s),
                     repaired.rises_k.at(i), repaired.covered.empty() ? cv::Mat() : repaired.covered[i]);
    return response;
}

LocateResult locateSources(const StepResponse& response, double meanWatts, const Registration* registration,
                           double thickness_mm, const LeftOut& leftOut, double firstFrame_px) {
    LocateResult result;
    if (!response.ready()) return result;
    result.noise_k = response.noise_k();
    Candidate best = bestInstant(response, leftOut);
    const bool crowd = best.crowd;
    const ChanceFloor wideFloor =
        floorOf(response, StepResponse::Baseline::Shared, SpotScale::far(), leftOut);
    constexpr double clearPoint = 25;
    std::erase_if(best.sources, [&](const HeatSource& spot) {
        return !hasEnd(spot, SpotScale::near()) || !comesAtOnce(response, spot) ||
               isCrest(response, spot, best.instant_s, wideFloor) ||
               (spot.snr < clearPoint && evidenceOfPart(response, spot, best.weight) < leastOfPart);
    });
    auto baseline = baselineFor(leftOut);
    result.verdict = HeatVerdict::Point;
    constexpr double surePoint = 12, muchClearer = 2.5;
    if (best.sources.empty() || best.sources.front().snr < surePoint) {
        constexpr double widestPart_mm = 3.2,
                         widestPart_px = 5.5; // the latter where a pixel's size is not known
        const PixelPoint middle{response.width() / 2.0, response.height() / 2.0};
        const WideHeat wide =
            wideHeat(response,
                     registration ? widestPart_mm * registration->pixelsPerMm(registration->toBoard(middle))
                                  : widestPart_px,
                     wideFloor);
        // Where something wide is far clearer than every point, weak points are mirrors of it; and so are
        // many that are alike.
        if (best.sources.empty() || crowd || wide.spot.snr > muchClearer * best.sources.front().snr) {
            best.sources.clear();
            result.verdict = wide.verdict;
            if (wide.verdict == HeatVerdict::FarSide || wide.verdict == HeatVerdict::Point)
                best = {wide.instant_s, {wide.spot}, false, {}};
            baseline = StepResponse::Baseline::Shared;
        }
    }
    result.shownAt_s = best.sources.empty() ? 0 : best.instant_s;
    for (const HeatSource& spot : best.sources) {
        LocatedSource source;
        source.spot = spot;
        source.spot.sigma_px = std::hypot(spot.sigma_px, firstFrame_px);
        double mmPerPixel = 0.5;
        if (registration) {
            source.board = registration->toBoard(spot.at);
            mmPerPixel = 1 / registration->pixelsPerMm(*source.board);
            source.sigma_mm = std::hypot(source.spot.sigma_px * mmPerPixel, registration->sigma_mm());
        }
        source.delay_s = delayOf(response, spot, baseline);
        source.power_mw =
            1e3 * meanWatts * powerShare(response, spot, best.instant_s, mmPerPixel, thickness_mm);
        result.sources.push_back(source);
    }
    return result;
}

namespace {

/// The spot that follows a switching most clearly, near the place that told it.
std::optional<HeatSource> followerOf(const FoundSwitching& found, const RepairedFrames& repaired,
                                     const LeftOut& leftOut) {
    constexpr double nearby_px = 20, least = 10;
    const StepResponse response = responseOf(repaired, found.supply());
    if (!response.ready()) return std::nullopt;
    const Candidate spots = bestInstant(response, leftOut);
    if (spots.sources.empty()) return std::nullopt;
    // A sequence that fits by chance is followed a little by many mirrors, and by none clearly.
    if (manyAlike(spots.sources)) return std::nullopt;
    // What stands far from it follows by chance; of what is near, the source is what warms most.
    std::optional<HeatSource> follower;
    for (const HeatSource& spot : spots.sources)
        if (spot.snr >= least && (!found.at || distance_px(spot.at, *found.at) <= nearby_px) &&
            (!follower || spot.rise_k_per_w > follower->rise_k_per_w))
            follower = spot;
    return follower;
}

/// A place aside of the source answers late, and what answers late then seems to be the source: the whole
/// sequence is moved earlier as long as something follows it more clearly, and its edges by that place's
/// course. Returns how clearly the source follows; 0 where nothing does.
double sharpen(FoundSwitching& found, const RepairedFrames& repaired, const LeftOut& leftOut) {
    constexpr std::array<double, 3> earlier_s{0, 0.15, 0.35};
    constexpr double same_px = 1;
    constexpr int looks = 2;
    std::optional<HeatSource> follower;
    FoundSwitching best = found;
    for (const double by_s : earlier_s) {
        FoundSwitching moved = found;
        for (double& t : moved.times_s)
            t -= by_s;
        const auto spot = followerOf(moved, repaired, leftOut);
        if (!spot || (follower && spot->rise_k_per_w <= follower->rise_k_per_w)) continue;
        follower = spot;
        best = moved;
    }
    found = best;
    const auto elsewhere = [&] { return !found.at || distance_px(follower->at, *found.at) > same_px; };
    for (int look = 0; look < looks && follower && elsewhere(); ++look) {
        FoundSwitching next = found;
        sharpenAt(next, follower->at, repaired);
        const auto spot = followerOf(next, repaired, leftOut);
        if (!spot || spot->rise_k_per_w < follower->rise_k_per_w) break;
        follower = spot;
        found = next;
    }
    return follower ? follower->snr : 0;
}

/// What the supply told, or, where it told nothing, what the frames tell of it: of the sequences that some
/// place follows, the one that a spot follows most clearly.
Result<std::vector<SupplySample>> powerOf(const SwitchedBy& told, const RepairedFrames& repaired,
                                          const LeftOut& leftOut, LocateResult& about) {
    if (meanOnPower_w(told.supply) > 0) return told.supply;
    FoundSwitching best;
    double clearest = 0;
    auto sequences = findSwitching(repaired);
    for (FoundSwitching& byBeat : switchingByBeats(told.beats))
        sequences.push_back(std::move(byBeat));
    for (FoundSwitching& found : sequences) {
        const double snr = sharpen(found, repaired, leftOut);
        if (snr <= clearest) continue;
        clearest = snr;
        best = found;
    }
    if (best.times_s.empty() && told.supply.empty()) {
        about.notes.emplace_back(
            say("no supply told its power, and no place in the picture was switched on and off"));
        return std::vector<SupplySample>();
    }
    if (best.times_s.empty())
        return Error{
            say("the supply delivered no power during the recording, and no place in the picture was "
                "switched on and off"),
            "recording", say("nothing can follow it")};
    about.switchedFromFrames = true;
    about.notes.push_back(say("the supply told no power: {count} switchings were found from the frames; "
                              "powers are in units of what was fed",
                              {{"count", best.times_s.size()}}));
    return best.supply();
}

/// 1 but for pixels that stand alone in showing more than noise: dead ones.
cv::Mat notDead(const ChanceMaps& chance) {
    constexpr float alone = 20;
    cv::Mat variance = cv::Mat::zeros(chance.front().size(), CV_32FC1), around, counts;
    for (const cv::Mat& map : chance)
        variance += map.mul(map) / static_cast<double>(chance.size());
    cv::medianBlur(variance, around, 3);
    cv::Mat(variance <= alone * cv::max(around, 1.0)).convertTo(counts, CV_32FC1, 1.0 / 255);
    return counts;
}

/// By the course of the clearest spot. With the clocks apart even a strong source looks unlike the power: a
/// weak likeness will do. The clearer it is, the more it even looks like pulses that never were; so what
/// stands out of the camera's noise alone is asked too, and tells the clocks where the power explains next to
/// all of it.
double clockOffsetOf(const StepResponse& response, const std::vector<SupplySample>& supply,
                     const RepairedFrames& repaired, const LeftOut& leftOut) {
    constexpr double likeness = 3, near_px = 2, nextToAll = 0.9;
    constexpr int most = 3;
    const auto baseline = baselineFor(leftOut);
    ClockOffset best;
    const Candidate likely = bestInstant(response, leftOut, likeness);
    if (!likely.sources.empty()) best = clockOffset(supply, repaired, likely.sources.front().at);
    const ChanceMaps chance = response.chance(baseline);
    const ChanceFloor noise = floorFrom({}, chance.front().size(), SpotScale::near(), notDead(chance));
    for (const HeatSource& clear : findSources(response.matched(1, baseline), noise, leastSnr, most)) {
        if (!likely.sources.empty() && distance_px(clear.at, likely.sources.front().at) < near_px) break;
        const ClockOffset other = clockOffset(supply, repaired, clear.at);
        if (other.explained > std::max(nextToAll, best.explained)) best = other;
    }
    return best.seconds;
}

/// How much of the picture does not count for what comes late.
void noteMirrors(const StepResponse& response, RepairedFrames& repaired) {
    constexpr double worthTelling = 0.01;
    const double share = 1 - cv::mean(response.quiet())[0];
    if (share < worthTelling) return;
    repaired.done.push_back(
        {Repair::Mirrors,
         say("{share} % of the picture shows what moves around the board: not counted in what comes late",
             {{"share", std::lround(100 * share)}})});
}

} // namespace

Result<RecordingLook> lookAt(Recording recording, const Registration* registration, double thickness_mm,
                             const LeftOut& leftOut) {
    auto look = lookAt(repairFrames(std::move(recording.frames), leftOut),
                       {recording.supply, recording.beats}, registration, thickness_mm, leftOut);
    if (!look) return look.error();
    auto& notes = look.value().located.notes;
    notes.insert(notes.end(), recording.warnings.begin(), recording.warnings.end());
    return look;
}

Result<RecordingLook> lookAt(RepairedFrames repaired, const SwitchedBy& told,
                             const Registration* registration, double thickness_mm, const LeftOut& leftOut) {
    const std::string where = "recording";
    constexpr std::size_t fewest = 20;
    LocateResult about;
    if (repaired.rises_k.size() < fewest)
        return Error{say("fewer than 20 frames"), where, say("record for some seconds")};
    auto power = powerOf(told, repaired, leftOut, about);
    if (!power) return power.error();
    std::vector<SupplySample>& supply = power.value();
    if (!leftOut.count(Repair::Passing)) leaveOutPassing(repaired, supply);
    StepResponse response = responseOf(repaired, supply);
    if (leftOut.count(Repair::Mirrors)) response.countMirrors();
    const bool clocks = !leftOut.count(Repair::Clocks) && !about.switchedFromFrames;
    if (response.ready() && clocks) {
        about.clockOffset_s = clockOffsetOf(response, supply, repaired, leftOut);
        if (about.clockOffset_s != 0) {
            response = StepResponse(1, 1); // of a large picture there is no room for two
            response = responseOf(repaired, supply, about.clockOffset_s);
            if (leftOut.count(Repair::Mirrors)) response.countMirrors();
            const long ms = std::lround(std::fabs(1e3 * about.clockOffset_s));
            repaired.done.push_back(
                {Repair::Clocks,
                 about.clockOffset_s > 0
                     ? say("the supply's clock was {ms} ms ahead of the frames': brought together",
                           {{"ms", ms}})
                     : say("the supply's clock was {ms} ms behind the frames': brought together",
                           {{"ms", ms}})});
        }
    }
    if (supply.empty()) {
        about.repairs = repaired.done;
        about.undone = repaired.undone;
        return RecordingLook{std::move(repaired), {}, std::move(response), std::move(about)};
    }
    if (!response.ready())
        return Error{say("the power never changed while the camera looked"), where, say("pulse the output")};
    noteMirrors(response, repaired);
    const double meanWatts = about.switchedFromFrames ? 1 : meanOnPower_w(supply);
    LocateResult located =
        locateSources(response, meanWatts, registration, thickness_mm, leftOut, repaired.firstFrame_px);
    located.clockOffset_s = about.clockOffset_s;
    located.switchedFromFrames = about.switchedFromFrames;
    located.repairs = repaired.done;
    located.undone = repaired.undone;
    located.notes = about.notes;
    return RecordingLook{std::move(repaired), std::move(supply), std::move(response), std::move(located)};
}

Result<LocateResult> locateInRecording(Recording recording, const Registration* registration,
                                       double thickness_mm, const LeftOut& leftOut) {
    auto look = lookAt(std::move(recording), registration, thickness_mm, leftOut);
    if (!look) return look.error();
    return std::move(look.value().located);
}

} // namespace ustor
