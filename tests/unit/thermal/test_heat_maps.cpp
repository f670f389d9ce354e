#include "support/recordings.h"
#include "thermal/emissivity.h"
#include "thermal/heat_maps.h"
#include "unit/thermal/test_thermal.h"

#include <QTest>
#include <cmath>
#include <complex>

using namespace ustor;

namespace {

RecordingLook lookedAt(const std::vector<testing::RenderedSource>& sources) {
    testing::RenderSettings settings;
    settings.seconds = 24;
    const Recording recording = testing::render(sources, settings);
    return lookAt(recording, nullptr).value();
}

} // namespace

// A periodic source in an infinite plate (Carslaw and Jaeger, 10.4; K0 of a complex argument): dT is q / (2
// pi k d) K0(r sqrt(i w / alpha)); its phase falls with distance. Two distances, so that the blur at the
// source does not count; K0 by the library's real Kelvin-like integral: K0(z) = int_0^inf exp(-z cosh t) dt.
void TestHeatMaps::delayGrowsWithDistanceAsInAPlate() {
    const PixelPoint at{32, 24};
    const RecordingLook looked = lookedAt({{at, 2.0}});
    const HeatMap map = heatMapOf(HeatMapKind::Delay, looked.response, looked.located);
    QCOMPARE(map.unit, std::string("s"));
    const Plate plate;
    constexpr double period_s = 2, mm = 0.5e-3;
    QVERIFY(std::fabs(looked.response.period_s() - period_s) < 0.1);
    const double w = 2 * 3.14159265358979 / period_s;
    const auto phase = [&](double pixels) {
        const std::complex<double> z =
            pixels * mm * std::sqrt(std::complex<double>(0, w / plate.diffusivity_m2_s()));
        std::complex<double> k0 = 0;
        constexpr double step = 0.002;
        for (double t = step / 2; t < 12; t += step)
            k0 += std::exp(-z * std::cosh(t)) * step;
        return -std::arg(k0) / w;
    };
    const auto told = [&](int pixels) {
        double sum = 0; // both ways, so that noise and the grid count less
        for (const int dx : {-pixels, pixels})
            sum += map.values.at<float>(24, 32 + dx) / 2.0;
        return sum;
    };
    for (const int pixels : {4, 7}) {
        const double wanted = phase(pixels) - phase(2), found = told(pixels) - told(2);
        QVERIFY2(std::fabs(found - wanted) < 0.15 * wanted + 0.01,
                 qPrintable(QString("%1 px: %2 s, in a plate %3 s").arg(pixels).arg(found).arg(wanted)));
    }
}

void TestHeatMaps::eachShowsTheSource() {
    const PixelPoint at{20.3, 30.6};
    const RecordingLook looked = lookedAt({{at, 0.1}});
    for (const HeatMapKind kind : allHeatMaps()) {
        const HeatMap map = heatMapOf(kind, looked.response, looked.located);
        QCOMPARE(map.values.size(), cv::Size(64, 48));
        if (kind == HeatMapKind::Delay) {
            QVERIFY(!std::isfinite(map.values.at<float>(2, 61))); // too faint to tell one
            continue;
        }
        cv::Point top;
        cv::minMaxLoc(map.values, nullptr, nullptr, nullptr, &top);
        QVERIFY2(std::hypot(top.x - at.x_px, top.y - at.y_px) < 1.6, wordOf(kind).data());
        QVERIFY(map.high > map.low);
    }
    // Odds are a density: they sum up to one source.
    const HeatMap odds = heatMapOf(HeatMapKind::Odds, looked.response, looked.located);
    QVERIFY(std::fabs(cv::sum(odds.values)[0] - 1) < 0.05);
}

void TestHeatMaps::aProfileIsWhatLiesOnTheLine() {
    cv::Mat ramp(10, 20, CV_32FC1);
    for (int y = 0; y < 10; ++y)
        for (int x = 0; x < 20; ++x)
            ramp.at<float>(y, x) = static_cast<float>(2 * x + 3 * y);
    const auto along = profileAlong(ramp, {2, 1}, {14, 6});
    QCOMPARE(along.size(), std::size_t(14)); // 13 pixels long
    QVERIFY(std::fabs(along.front() - 7) < 1e-4);
    QVERIFY(std::fabs(along.back() - 46) < 1e-4);
    QVERIFY(std::fabs(along[6] - (7 + 6.0 / 13 * 39)) < 1e-4);
}

// Planck's law over all wavelengths is sigma T^4 / pi (CODATA: 5.670374419e-8); between 8 and 14 micrometres
// at 300 K a black body gives the share F(0 to 4200 um K) - F(0 to 2400 um K) = 0.5160 - 0.1403 of it (Siegel
// and Howell, Thermal Radiation Heat Transfer, table of blackbody functions, from memory).
void TestEmissivity::bandAgainstTheTable() {
    const double all = 5.670374419e-8 * std::pow(300.0, 4) / 3.14159265358979;
    const double share = bandRadiance_w_m2sr(300) / all;
    QVERIFY2(std::fabs(share - (0.5160 - 0.1403)) < 0.001, qPrintable(QString::number(share, 'g', 6)));
    // At 1000 K: 8000 to 14000 um K, 0.8563 and 0.9629 (the same table).
    const double hot = bandRadiance_w_m2sr(1000) / (5.670374419e-8 * std::pow(1000.0, 4) / 3.14159265358979);
    QVERIFY2(std::fabs(hot - (0.9629 - 0.8563)) < 0.001, qPrintable(QString::number(hot, 'g', 6)));
}

void TestEmissivity::whatIsSeenComesBack() {
    for (const double e : {0.1, 0.5, 0.9, 1.0})
        for (const double kelvin : {280.0, 300.0, 360.0}) {
            // What a camera would show of such a surface in a room of 296 K, by bisection of the band's
            // radiance.
            const double seen = e * bandRadiance_w_m2sr(kelvin) + (1 - e) * bandRadiance_w_m2sr(296);
            double low = 200, high = 500;
            for (int i = 0; i < 60; ++i)
                (bandRadiance_w_m2sr((low + high) / 2) < seen ? low : high) = (low + high) / 2;
            const auto back = surfaceKelvin(low, e, 296);
            QVERIFY(back.has_value());
            QVERIFY2(std::fabs(*back - kelvin) < 1e-6, qPrintable(QString::number(*back)));
        }
    QVERIFY(!surfaceKelvin(300, 0, 296));
    QVERIFY(!surfaceKelvin(200, 0.05, 350)); // darker than what it mirrors: no surface looks like that
    // A small rise shows by the emissivity where surface and room are equally warm.
    QVERIFY(std::fabs(shownShare(296, 0.15, 296) - 0.15) < 1e-6);
    // T^4 alone would say e T^3 / Tapp^3: for a warm surface the band is close to it.
    QVERIFY(shownShare(360, 0.5, 296) > 0.5 && shownShare(360, 0.5, 296) < 0.65);
}

void TestEmissivity::metalTopsAreBlind() {
    Part part;
    part.partClass = PartClass::CeramicCapacitor;
    QVERIFY(!isBlind(surfaceOf(part)));
    part.partClass = PartClass::Connector;
    QVERIFY(isBlind(surfaceOf(part)));
    part.partClass = PartClass::Mechanical;
    part.package = "Shield 12x12";
    QVERIFY(isBlind(surfaceOf(part)));
    Board board;
    part.centre = {10, 10};
    part.width_mm = 8;
    part.height_mm = 4;
    part.rotation_deg = 90;
    board.parts = {part};
    const auto where = Registration::fromLandmarks(
        {{{0, 0}, {0, 40}}, {{20, 0}, {40, 40}}, {{20, 20}, {40, 0}}, {{0, 20}, {0, 0}}}, Side::Top);
    QVERIFY(where.ok());
    const cv::Mat map = emissivityMap(board, where.value(), {40, 40});
    QVERIFY(map.at<float>(20, 20) < 0.3f);
    QVERIFY(map.at<float>(26, 20) < 0.3f); // it stands upright: turned by a quarter
    QVERIFY(map.at<float>(20, 26) > 0.8f);
}
