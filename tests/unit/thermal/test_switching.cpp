#include "support/heat_scenes.h"
#include "support/recordings.h"
#include "thermal/locate.h"
#include "thermal/power.h"
#include "thermal/switching.h"
#include "unit/thermal/test_thermal.h"

#include <QTest>
#include <cmath>

using namespace ustor;

namespace {

/// Milliseconds from each true switching-on to the nearest found one, the worst but one.
double worstEdge_ms(const std::vector<double>& truth_s, const FoundSwitching& found, double& missed) {
    std::vector<double> off_ms;
    for (const double t : truth_s) {
        double nearest = 1e9;
        for (std::size_t i = 0; i < found.times_s.size(); i += 2)
            nearest = std::min(nearest, std::fabs(found.times_s[i] - t));
        off_ms.push_back(1e3 * nearest);
    }
    std::sort(off_ms.begin(), off_ms.end());
    missed =
        static_cast<double>(std::count_if(off_ms.begin(), off_ms.end(), [](double o) { return o > 400; }));
    return off_ms.size() < 2 ? 1e9 : off_ms[off_ms.size() - 2];
}

} // namespace

// Closed form (Carslaw and Jaeger, 10.4): the times that the pulses were rendered with.
void TestSwitching::timesOfRenderedPulses() {
    testing::RenderSettings settings;
    settings.seconds = 20;
    settings.on_s = 1.3;
    settings.off_s = 1.9;
    Recording recording = testing::render({{{30.4, 22.7}, 0.1}}, settings);
    const auto truth_s = switchOns(recording.supply);
    const RepairedFrames frames = repairFrames(recording.frames);
    auto found = findSwitching(frames);
    QVERIFY(!found.empty());
    QVERIFY(distance_px(*found.front().at, {30.4, 22.7}) < 6);
    // Some pixels aside the heat comes later; at the source itself the edges are sharp.
    sharpenAt(found.front(), {30.4, 22.7}, frames);
    double missed = 0;
    const double worst_ms = worstEdge_ms(truth_s, found.front(), missed);
    QVERIFY2(worst_ms < 80 && missed <= 1, qPrintable(QString("%1 ms, %2 missed").arg(worst_ms).arg(missed)));
}

// Uneven switching by hand, a supply that tells nothing: other physics than the estimator's. The rules were
// made on seeds 8001 to 8008, of which one is too weak to tell and answered by nothing;
// of 8301 to 8308, seen once, all are found; 8006 is not: its edges come from beside the source.
void TestSwitching::unevenSwitchingWithoutASupply_data() {
    QTest::addColumn<int>("seed");
    for (const int seed : {8002, 8223, 8301})
        QTest::newRow(std::to_string(seed).c_str()) << seed;
}

void TestSwitching::unevenSwitchingWithoutASupply() {
    QFETCH(int, seed);
    auto scene = testing::makeScene(testing::SceneKind::Manual, static_cast<std::uint64_t>(seed));
    scene.recording.supply.clear();
    const auto located = locateInRecording(scene.recording, nullptr);
    QVERIFY2(located.ok(), located.ok() ? "" : located.error().text().c_str());
    QVERIFY(located.value().switchedFromFrames);
    QCOMPARE(located.value().verdict, HeatVerdict::Point);
    const double off_mm =
        distance_px(located.value().sources.front().spot.at, *scene.fault) * scene.mmPerPixel;
    QVERIFY2(off_mm < 0.5, qPrintable(QString("%1 mm off").arg(off_mm)));
}

void TestSwitching::noiseIsNotASwitch() {
    testing::RenderSettings settings;
    settings.seconds = 20;
    settings.drift_k_per_s = 0.01;
    Recording recording = testing::render({}, settings);
    recording.supply.clear();
    QVERIFY(findSwitching(repairFrames(recording.frames)).empty());
    const auto located = locateInRecording(recording, nullptr);
    QVERIFY(located.ok());
    QCOMPARE(located.value().verdict, HeatVerdict::None);
    QVERIFY(located.value().notes.front().text().find("no place in the picture") != std::string::npos);
}
