#include "base/median.h"
#include "support/heat_scenes.h"
#include "support/layered_plate.h"
#include "thermal/gathered_heat.h"
#include "thermal/locate.h"
#include "unit/thermal/test_thermal.h"

#include <QTest>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <opencv2/imgproc.hpp>
#include <vector>

using namespace ustor;
using testing::SceneKind;

// Conservation of energy: what is stored and what was lost to air is what was put in.
void TestHeatScenes::plateKeepsItsEnergy() {
    Random random(5);
    testing::LayeredPlate plate(30, 20, random);
    double in_j = 0;
    for (int i = 0; i < 2000; ++i) {
        plate.addHeat(testing::LayeredPlate::Near, {12, 9}, 1.2, 1e-5);
        plate.addHeat(testing::LayeredPlate::Far, {20, 5}, 0.7, 2e-5);
        in_j += 3e-5;
        plate.step();
    }
    QVERIFY(plate.lostJoules() > 1e-5);
    QVERIFY2(std::fabs((plate.storedJoules() + plate.lostJoules()) / in_j - 1) < 2e-3,
             qPrintable(QString("%1 of %2").arg(plate.storedJoules() + plate.lostJoules()).arg(in_j)));
}

// Half of the final rise after 1.38 times the slab's thermal time d^2 / (pi^2 alpha) (Parker, Jenkins, Butler
// and Abbott, J. Appl. Phys. 32 (1961) 1679). Six layers blur the beginning by a part of their own depth.
void TestHeatScenes::heatCrossesAsThroughASlab() {
    for (const std::uint64_t seed : {3, 4, 5}) {
        Random random(seed);
        testing::LayeredPlate plate(20, 20, random);
        constexpr double board_mm = 60, muchLater = 8;
        plate.addHeat(testing::LayeredPlate::Far, {10, 10}, board_mm, 1);
        std::vector<std::pair<double, double>> course;
        for (double t = 0; t < muchLater * plate.throughTime_s(); t += plate.step_s()) {
            plate.step();
            course.emplace_back(t + plate.step_s(), plate.rise_k(testing::LayeredPlate::Near, {10, 10}));
        }
        const double half = course.back().second / 2;
        const auto crossed = std::find_if(course.begin(), course.end(),
                                          [half](const auto& one) { return one.second >= half; });
        const double ratio = crossed->first / (1.38 * plate.throughTime_s());
        QVERIFY2(std::fabs(ratio - 1) < 0.12, qPrintable(QString("%1 of the slab's").arg(ratio)));
    }
}

// The middle of what was put in and of what is seen of it: cells of 0.8 mm must not draw it to their own.
void TestHeatScenes::heatStaysWhereItIsPut() {
    Random random(6);
    for (int round = 0; round < 20; ++round) {
        testing::LayeredPlate plate(20, 16, random);
        const BoardPoint at{random.uniform(5, 15), random.uniform(5, 11)};
        constexpr double mmPerPixel = 0.25, joules = 0.1, nearly_mm = 5e-3;
        plate.addHeat(testing::LayeredPlate::Near, at, random.uniform(0.5, 2), joules);
        const cv::Moments seen = cv::moments(plate.picture(testing::LayeredPlate::Near, 80, 64, mmPerPixel));
        const double off_mm = std::hypot(mmPerPixel * seen.m10 / seen.m00 - at.x_mm,
                                         mmPerPixel * seen.m01 / seen.m00 - at.y_mm);
        QVERIFY2(off_mm < nearly_mm, qPrintable(QString("%1 mm").arg(off_mm)));
    }
}

// A recording without heat, in which six people bend over the board: what is left without the mirrors is no
// more than the camera's noise makes of such a filter, and with them it is many times that.
void TestHeatScenes::whatMirrorsShareIsTakenOut() {
    const auto scene = testing::makeScene(SceneKind::Nothing, 9205);
    StepResponse response = responseOf(repairFrames(scene.recording.frames), scene.recording.supply);
    const cv::Mat quiet = response.quiet() > 0;
    const double share = cv::mean(quiet)[0] / 255;
    QVERIFY2(share > 0.5 && share < 0.95, qPrintable(QString::number(share)));
    constexpr int slowLag = 3;
    constexpr double smooth_px = 3;
    const auto deviation = [&] {
        const auto maps = response.matched(slowLag, StepResponse::Baseline::Shared);
        cv::Mat smooth;
        cv::GaussianBlur(maps.rise_k_per_w, smooth, {}, smooth_px);
        std::vector<float> values;
        for (int i = 0; i < static_cast<int>(smooth.total()); ++i)
            if (quiet.data[i]) values.push_back(smooth.ptr<float>()[i]);
        const float middle = medianOf(values);
        for (float& v : values)
            v = std::fabs(v - middle);
        // White noise of deviation 1 has 1 / (2 sqrt(pi) s) after a Gaussian of width s.
        return 1.4826 * medianOf(std::move(values)) * 2 * std::sqrt(std::numbers::pi) * smooth_px /
               maps.sigma_k_per_w;
    };
    const double without = deviation();
    QVERIFY(!gatheredHeat(response));
    response.countMirrors();
    QCOMPARE(cv::countNonZero(response.quiet() == 0), 0);
    const double with = deviation();
    QVERIFY2(without < 2 && with > 3 * without, qPrintable(QString("%1, %2").arg(without).arg(with)));
}

void TestHeatScenes::peopleAreNotFooled_data() {
    QTest::addColumn<int>("kind");
    QTest::addColumn<int>("seed");
    QTest::addColumn<double>("within_mm"); // 0: no place may be claimed
    QTest::addColumn<QString>("verdict");
    constexpr int usual = 7002;
    const auto odd = [](const char* name, SceneKind kind, int seed, double within_mm, const char* verdict) {
        QTest::newRow(name) << static_cast<int>(kind) << seed << within_mm << QString(verdict);
    };
    const auto row = [&](SceneKind kind, double within_mm, const char* verdict) {
        odd(wordOf(kind).data(), kind, usual, within_mm, verdict);
    };
    row(SceneKind::Plain, 0.5, "point");
    row(SceneKind::Hand, 0.5, "point");
    row(SceneKind::Rework, 0.5, "point");
    row(SceneKind::Manual, 0.5, "point");
    row(SceneKind::Handheld, 0.5, "point");
    row(SceneKind::Several, 1, "point");
    row(SceneKind::Far, 3, "far side");
    row(SceneKind::Wide, 0, "spread");
    row(SceneKind::Nothing, 0, "none");
    row(SceneKind::Cooling, 0, "none");
    // What fooled an earlier form of the finder.
    odd("a strong part and clocks apart", SceneKind::Shutter, 9618, 0.5, "point");
    odd("mirrors turn cold", SceneKind::Handheld, 9601, 0.5, "point");
    odd("a part between metal", SceneKind::Plain, 9816, 0.5, "point");
    odd("the median is a mirror's", SceneKind::Far, 9814, 3, "far side");
    odd("a mirror fades evenly", SceneKind::Far, 9804, 3, "far side");
    odd("a crowd of mirrors", SceneKind::Whisper, 9864, 0, "none");
}

// Recordings with other physics than the estimator's (finite volumes, lumped bodies, mirrors, jitter); places
// are in the pixels of the first frame.
void TestHeatScenes::peopleAreNotFooled() {
    QFETCH(int, kind);
    QFETCH(int, seed);
    QFETCH(double, within_mm);
    QFETCH(QString, verdict);
    const auto scene = testing::makeScene(static_cast<SceneKind>(kind), static_cast<std::uint64_t>(seed));
    const auto located = locateInRecording(scene.recording, nullptr);
    QVERIFY2(located.ok(), located.ok() ? "" : located.error().text().c_str());
    QCOMPARE(QString::fromStdString(std::string(wordOf(located.value().verdict))), verdict);
    if (within_mm == 0) {
        QVERIFY(located.value().sources.empty());
        return;
    }
    const double off_mm =
        distance_px(located.value().sources.front().spot.at, *scene.fault) * scene.mmPerPixel;
    QVERIFY2(off_mm <= within_mm, qPrintable(QString("%1 mm off").arg(off_mm)));
}
