#include "support/spectral_plate.h"
#include "support/swaying_scenes.h"
#include "thermal/locate.h"
#include "unit/thermal/test_thermal.h"

#include <QTest>
#include <cmath>
#include <numbers>

using namespace ustor;
using testing::SceneKind;

// A line source in an infinite plate without loss: q / (4 pi k d) E1(r^2 / 4 alpha t) (Carslaw and Jaeger,
// Conduction of Heat in Solids, 2nd ed., 10.4). One source of half the power on each face makes it.
void TestSwayingScenes::plateIsThatOfTheLineSource() {
    testing::SpectralPlate::Board board;
    board.loss_w_m2k = 1e-6;
    constexpr double mm = 0.5, watts = 0.2, seconds = 1.5;
    const cv::Size size(160, 120);
    testing::SpectralPlate plate(size, mm, board);
    const PixelPoint middle{80, 60};
    constexpr double narrow_px = 0.5;
    plate.addSource(middle, narrow_px, false);
    plate.addSource(middle, narrow_px, true);
    for (int i = 0; i < 30; ++i)
        plate.step(seconds / 30, {watts / 2, watts / 2});
    const cv::Mat rise = plate.rise_k();
    const double diffusivity = board.conductivity_w_mk / testing::SpectralPlate::Board::heatCapacity_j_m3k;
    for (const int away_px : {6, 10, 16}) {
        const double r_m = away_px * mm * 1e-3;
        const double expected = watts / (4 * std::numbers::pi * board.conductivity_w_mk * board.thickness_m) *
                                -std::expint(-r_m * r_m / (4 * diffusivity * seconds));
        const double found = rise.at<float>(60, 80 + away_px);
        QVERIFY2(std::fabs(found / expected - 1) < 0.02,
                 qPrintable(QString("%1 px: %2 K, expected %3 K").arg(away_px).arg(found).arg(expected)));
    }
}

void TestSwayingScenes::peopleWhoSwayFoolNobody_data() {
    QTest::addColumn<int>("kind");
    QTest::addColumn<int>("seed");
    for (const SceneKind kind :
         {SceneKind::Nothing, SceneKind::Far, SceneKind::Wide, SceneKind::Manual, SceneKind::Plain})
        for (const int seed : {3, 5, 7}) // nothing of 3 was a point once
            QTest::addRow("%s %d", wordOf(kind).data(), seed) << static_cast<int>(kind) << seed;
}

void TestSwayingScenes::peopleWhoSwayFoolNobody() {
    QFETCH(int, kind);
    QFETCH(int, seed);
    const auto scene =
        testing::makeSwayingScene(static_cast<SceneKind>(kind), static_cast<std::uint64_t>(seed));
    const auto result = locateInRecording(scene.recording, nullptr);
    if (static_cast<SceneKind>(kind) == SceneKind::Wide) {
        QVERIFY(result && result.value().sources.empty());
        QCOMPARE(wordOf(result.value().verdict), wordOf(HeatVerdict::Spread));
        return;
    }
    if (!scene.fault) {
        // Without any heat an error may say so too; a place must not.
        if (result) QCOMPARE(wordOf(result.value().verdict), wordOf(HeatVerdict::None));
        return;
    }
    QVERIFY2(result, result ? "" : qPrintable(QString::fromStdString(result.error().text())));
    const bool far = static_cast<SceneKind>(kind) == SceneKind::Far;
    QCOMPARE(wordOf(result.value().verdict), wordOf(far ? HeatVerdict::FarSide : HeatVerdict::Point));
    QVERIFY(!result.value().sources.empty());
    const double off_mm =
        distance_px(result.value().sources.front().spot.at, *scene.fault) * scene.mmPerPixel;
    QVERIFY2(off_mm < (far ? 3 : 0.5), qPrintable(QString("%1 mm").arg(off_mm)));
}
