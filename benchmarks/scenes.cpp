#include "benchmarks.h"

#include "base/median.h"
#include "diagnosis/path_heat.h"
#include "support/path_board.h"
#include "support/plain_finders.h"
#include "thermal/locate.h"

#include <QElapsedTimer>
#include <algorithm>
#include <cstdio>
#include <limits>
#include <map>

namespace ustor {
namespace {

struct SceneRow {
    int scenes = 0, point = 0, far = 0, spread = 0, none = 0, withinHalf = 0, within1 = 0, within3 = 0,
        threeWithin1 = 0, twoSigma = 0, located = 0, warmest = 0, afterStart = 0, like = 0;
    std::vector<double> errors_mm;
    double seconds = 0;
};

void count(SceneRow& row, const testing::Scene& scene, const LocateResult& result) {
    ++row.scenes;
    switch (result.verdict) {
    case HeatVerdict::Point:
        ++row.point;
        break;
    case HeatVerdict::FarSide:
        ++row.far;
        break;
    case HeatVerdict::Spread:
        ++row.spread;
        break;
    case HeatVerdict::None:
        ++row.none;
        break;
    }
    if (!scene.fault || result.sources.empty()) return;
    const auto error_mm = [&](const LocatedSource& s) {
        return distance_px(s.spot.at, *scene.fault) * scene.mmPerPixel;
    };
    const double first = error_mm(result.sources.front());
    row.errors_mm.push_back(first);
    row.withinHalf += first <= 0.5;
    row.within1 += first <= 1;
    row.within3 += first <= 3;
    bool three = false;
    for (std::size_t i = 0; i < std::min<std::size_t>(3, result.sources.size()); ++i)
        three = three || error_mm(result.sources[i]) <= 1;
    row.threeWithin1 += three;
    if (first <= 3) {
        ++row.located;
        row.twoSigma += first <= 2 * result.sources.front().spot.sigma_px * scene.mmPerPixel;
    }
}

/// Whether the fault comes first once the board names what lies in the path.
bool firstByBoard(const testing::Scene& scene, LocateResult result) {
    const Registration registration = testing::straightOver(scene);
    for (LocatedSource& source : result.sources)
        source.board = registration.toBoard(source.spot.at);
    orderByPath(result, testing::boardWithBeads(scene), 0, Side::Top);
    return !result.sources.empty() &&
           distance_px(result.sources.front().spot.at, *scene.fault) * scene.mmPerPixel <= 1;
}

/// How hard the recording is: whether the plain ways find it within 1 mm, or 3 mm on the far side.
void countPlain(SceneRow& row, const testing::Scene& scene, testing::SceneKind kind) {
    if (!scene.fault) return;
    const double near_mm = kind == testing::SceneKind::Far ? 3 : 1;
    const auto found = [&](PixelPoint at) {
        return distance_px(at, *scene.fault) * scene.mmPerPixel <= near_mm;
    };
    row.warmest += found(testing::warmestPixel(scene.recording));
    row.afterStart += found(testing::warmestAfterStart(scene.recording));
    row.like += found(testing::mostLikePower(scene.recording));
}

} // namespace

void benchScenes(int scenes, std::uint64_t firstSeed, const std::string& only) {
    std::printf(
        "Heat located in generated recordings (%d of a kind, seeds from %llu)\n"
        "  plain ways beside it, within 1 mm (far: 3 mm): warmest pixel / less the start / like the power\n"
        "  kind      <0.5mm  <1mm  <3mm  3<1mm  median  2sigma   point far wide none   s each   plain ways\n",
        scenes, static_cast<unsigned long long>(firstSeed));
    for (const auto kind : testing::allScenes()) {
        if (!only.empty() && only != wordOf(kind)) continue;
        SceneRow row;
        int named = 0;
        for (int i = 0; i < scenes; ++i) {
            const auto scene = testing::makeScene(kind, firstSeed + static_cast<std::uint64_t>(i));
            QElapsedTimer clock;
            clock.start();
            const auto result = locateInRecording(scene.recording, nullptr);
            row.seconds += static_cast<double>(clock.nsecsElapsed()) * 1e-9;
            if (!result) {
                std::printf("  %s %d: %s\n", wordOf(kind).data(), i, result.error().text().c_str());
                continue;
            }
            count(row, scene, result.value());
            countPlain(row, scene, kind);
            if (kind == testing::SceneKind::Path) named += firstByBoard(scene, result.value());
            if (!only.empty()) {
                std::printf("    seed %llu: %s, fault %.1f mW rises %.3f K, %.2f mm a pixel, %.0f Hz %dx%d",
                            static_cast<unsigned long long>(firstSeed) + i,
                            wordOf(result.value().verdict).data(), 1e3 * scene.fault_w, scene.partRise_k,
                            scene.mmPerPixel, scene.recording.info.frameRate_hz, scene.recording.info.width,
                            scene.recording.info.height);
                if (scene.fault) std::printf(", at %.1f %.1f", scene.fault->x_px, scene.fault->y_px);
                std::printf("\n");
                for (const auto& s : result.value().sources)
                    std::printf(
                        "      %.1f %.1f +- %.2f px, snr %.1f, width %.1f, delay %.2f%s\n", s.spot.at.x_px,
                        s.spot.at.y_px, s.spot.sigma_px, s.spot.snr, s.spot.width_px, s.delay_s,
                        scene.fault
                            ? (", off " +
                               std::to_string(distance_px(s.spot.at, *scene.fault) * scene.mmPerPixel) +
                               " mm")
                                  .c_str()
                            : "");
            }
        }
        const double n = std::max(1, row.scenes);
        std::printf("  %-9s %5.0f%% %5.0f%% %5.0f%% %5.0f%% %7.3f %6.0f%%   %5d %3d %4d %4d   %.2f    "
                    "%3.0f%% %3.0f%% %3.0f%%\n",
                    wordOf(kind).data(), 100 * row.withinHalf / n, 100 * row.within1 / n,
                    100 * row.within3 / n, 100 * row.threeWithin1 / n,
                    row.errors_mm.empty() ? std::numeric_limits<double>::quiet_NaN()
                                          : medianOf(row.errors_mm),
                    100.0 * row.twoSigma / std::max(1, row.located), row.point, row.far, row.spread, row.none,
                    row.seconds / n, 100 * row.warmest / n, 100 * row.afterStart / n, 100 * row.like / n);
        if (kind == testing::SceneKind::Path)
            std::printf("            first within 1 mm where the board names the path: %.0f%%\n",
                        100 * named / n);
        std::fflush(stdout);
    }
}

} // namespace ustor
