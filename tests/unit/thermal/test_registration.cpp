#include "base/random.h"
#include "thermal/registration.h"
#include "unit/thermal/test_thermal.h"

#include <QTest>
#include <cmath>

using namespace ustor;

namespace {

/// A camera from aside: a true homography, chosen by hand.
PixelPoint seen(BoardPoint p) {
    const double w = 1 + 4e-4 * p.x_mm - 3e-4 * p.y_mm;
    return {(10 + 1.6 * p.x_mm + 0.05 * p.y_mm) / w, (110 - 0.04 * p.x_mm - 1.55 * p.y_mm) / w};
}

std::vector<Landmark> marks(int count, double noise_px, std::uint64_t seed, Side side = Side::Top) {
    const std::vector<BoardPoint> places{{4, 4},   {90, 5},  {88, 62}, {6, 60},
                                         {45, 33}, {20, 40}, {70, 20}, {50, 60}};
    Random random(seed);
    std::vector<Landmark> out;
    for (int i = 0; i < count; ++i) {
        PixelPoint p = seen(places[static_cast<std::size_t>(i)]);
        if (side == Side::Bottom) p.x_px = 160 - p.x_px; // turned over like a page
        out.push_back({places[static_cast<std::size_t>(i)],
                       {p.x_px + noise_px * random.normal(), p.y_px + noise_px * random.normal()}});
    }
    return out;
}

} // namespace

void TestRegistration::fourLandmarksFixAPlane() {
    const auto r = Registration::fromLandmarks(marks(4, 0, 1), Side::Top);
    QVERIFY(r.ok());
    for (const BoardPoint p : {BoardPoint{30, 30}, {80, 10}, {10, 55}}) {
        // A hundredth of a pixel: fifty times finer than a careful click.
        QVERIFY(distance_px(r.value().toImage(p), seen(p)) < 0.01);
        QVERIFY(distance_mm(r.value().toBoard(seen(p)), p) < 0.01);
    }
    QVERIFY(r.value().residual_mm() < 0.01);
    QVERIFY(r.value().sigma_mm() >
            0.1); // with four the residual says nothing: the usual click is reckoned with
    QVERIFY(std::fabs(r.value().pixelsPerMm({45, 33}) - 1.57) < 0.1);
}

void TestRegistration::moreLandmarksTellTheirResidual() {
    const auto r = Registration::fromLandmarks(marks(8, 0.8, 2, Side::Bottom), Side::Bottom);
    QVERIFY(r.ok());
    QVERIFY(r.value().residual_mm() > 0.05 && r.value().residual_mm() < 1.0);
    QCOMPARE(r.value().side(), Side::Bottom);
}

void TestRegistration::badLandmarksAreErrors() {
    QVERIFY(!Registration::fromLandmarks(marks(3, 0, 1), Side::Top).ok());
    std::vector<Landmark> line;
    for (int i = 0; i < 4; ++i)
        line.push_back({{10.0 * i, 5}, {20.0 * i, 10}});
    QVERIFY(!Registration::fromLandmarks(line, Side::Top).ok());
    // With four there is no residual to tell: the fold does. Neighbours swapped give a bow tie.
    for (const auto& [a, b] : {std::pair{0, 1}, {1, 2}, {2, 3}, {3, 0}}) {
        auto bowTie = marks(4, 0.3, 5);
        std::swap(bowTie[static_cast<std::size_t>(a)].image, bowTie[static_cast<std::size_t>(b)].image);
        const auto folded = Registration::fromLandmarks(bowTie, Side::Top);
        QVERIFY(!folded.ok());
        QVERIFY(folded.error().what.text().find("swapped") != std::string::npos);
    }
    // A mirrored picture: the wrong side was named, or the camera mirrors. No camera sees the top so.
    for (const Side side : {Side::Top, Side::Bottom}) {
        const auto mirrored = Registration::fromLandmarks(marks(6, 0.3, 5, side), otherSide(side));
        QVERIFY(!mirrored.ok());
        QVERIFY(mirrored.error().what.text().find("mirrored") != std::string::npos);
    }
    // Nearly a line: what is across it cannot be told.
    std::vector<Landmark> thin = marks(4, 0, 1);
    for (std::size_t i = 0; i < thin.size(); ++i)
        thin[i] = {{30.0 * static_cast<double>(i), i % 2 == 0 ? 5.0 : 6.0},
                   seen({30.0 * static_cast<double>(i), 5})};
    QVERIFY(!Registration::fromLandmarks(thin, Side::Top).ok());
    auto swapped = marks(6, 0, 1);
    std::swap(swapped[0].image, swapped[2].image);
    QVERIFY(!Registration::fromLandmarks(swapped, Side::Top).ok());
}

void TestRegistration::comesBackAsItWent() {
    const auto r = Registration::fromLandmarks(marks(6, 0.3, 4, Side::Bottom), Side::Bottom);
    const auto back = registrationFromJson(registrationToJson(r.value()), "r.json");
    QVERIFY(back.ok());
    QCOMPARE(back.value().toImage({30, 30}), r.value().toImage({30, 30}));
    QCOMPARE(back.value().side(), Side::Bottom);
    QVERIFY(!registrationFromJson("{}", "r.json").ok());
    QVERIFY(!registrationFromJson("[1,2", "r.json").ok());
}
