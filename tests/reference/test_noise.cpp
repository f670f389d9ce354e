#include "base/random.h"
#include "injection/plan.h"
#include "reference/test_reference.h"
#include "support/recordings.h"
#include "thermal/locate.h"
#include "thermal/sources.h"
#include "thermal/step_response.h"

#include <QTest>
#include <cmath>

using namespace ustor;

// Difference of on and off means at half duty: deviation 2 sigma / sqrt(N) (Breitenstein, Warta, Langenkamp,
// Lock-in Thermography, Springer, from memory). Drawn, and against what the plan reckons with.
void TestNoise::onOffDifference() {
    Random random(21);
    constexpr int frames = 500, trials = 4000;
    constexpr double sigma = 0.06;
    double squares = 0;
    for (int t = 0; t < trials; ++t) {
        double on = 0, off = 0;
        for (int i = 0; i < frames; ++i)
            (i % 50 < 25 ? on : off) += sigma * random.normal();
        const double difference = (on - off) / (frames / 2.0);
        squares += difference * difference;
    }
    const double drawn = std::sqrt(squares / trials), law = 2 * sigma / std::sqrt(frames);
    // Standard error of a deviation from n draws: 1 / sqrt(2 n); four of them.
    QVERIFY(std::fabs(drawn / law - 1) < 4 / std::sqrt(2.0 * trials));
    // The plan's power falls with the root of the time, and in proportion to the camera's noise.
    const CameraAbility camera{60, 25}, twice{120, 25};
    QVERIFY(std::fabs(wattsToSee(camera, 10).value / wattsToSee(camera, 40).value - 2) < 1e-9);
    QVERIFY(std::fabs(wattsToSee(twice, 10).value / wattsToSee(camera, 10).value - 2) < 1e-9);
}

// The response's stated deviation is what many pixels of pure noise show. Pass rule: 4800 pixels, four
// standard errors.
void TestNoise::responseStatesItsOwnNoise() {
    constexpr int width = 80, height = 60;
    StepResponse response(width, height);
    Random random(22);
    constexpr double sigma = 0.05;
    for (int f = 0; f < 500; ++f) {
        cv::Mat frame(height, width, CV_32FC1);
        for (float& v : cv::Mat_<float>(frame))
            v = static_cast<float>(sigma * random.normal());
        const double t = f / 25.0;
        response.add(t, std::fmod(t, 2.0) < 1 ? 0.0 : 0.02, frame);
    }
    QVERIFY(response.ready());
    QVERIFY(std::fabs(response.noise_k() / sigma - 1) < 0.02);
    for (const double seconds : {0.3, 1.2, 5.0}) {
        const auto maps = response.at(seconds);
        const double drawn = cv::norm(maps.rise_k_per_w) / std::sqrt(static_cast<double>(width * height));
        QVERIFY2(std::fabs(drawn / maps.sigma_k_per_w - 1) < 0.06,
                 qPrintable(QString("%1 s: %2 against %3").arg(seconds).arg(drawn).arg(maps.sigma_k_per_w)));
    }
}

// Kay, Estimation Theory: the variance of a place is at least sigma^2 / sum (dA/dx)^2. Setting: a Gaussian
// spot of deviation 1.6 px and height 1 on white noise of 0.05; the bound is computed here from the spot
// itself, with height, width and ground unknown too but uncorrelated with the place by symmetry. Wanted: rms
// error at most 1.5 times the bound.
void TestNoise::spotsComeNearTheCramerRaoBound() {
    constexpr int size = 40;
    constexpr double w = 1.6, sigma = 0.05;
    Random random(23);
    double bound = 0, squares = 0, stated = 0;
    int found = 0;
    constexpr int trials = 300;
    for (int t = 0; t < trials; ++t) {
        const double x0 = 20 + random.uniform(-0.5, 0.5), y0 = 20 + random.uniform(-0.5, 0.5);
        cv::Mat map(size, size, CV_32FC1);
        double information = 0;
        for (int y = 0; y < size; ++y)
            for (int x = 0; x < size; ++x) {
                const double shape = std::exp(-((x - x0) * (x - x0) + (y - y0) * (y - y0)) / (2 * w * w));
                const double slope = shape * (x - x0) / (w * w);
                information += slope * slope;
                map.at<float>(y, x) = static_cast<float>(shape + sigma * random.normal());
            }
        bound += sigma * sigma / information;
        const auto sources = findSources({map, sigma, {}}, floorFrom({}, map.size()), 6, 3);
        if (sources.empty()) continue;
        ++found;
        squares += (sources[0].at.x_px - x0) * (sources[0].at.x_px - x0);
        stated += sources[0].sigma_px * sources[0].sigma_px;
    }
    QCOMPARE(found, trials);
    const double rms = std::sqrt(squares / trials), limit = std::sqrt(bound / trials);
    QVERIFY2(rms < 1.5 * limit, qPrintable(QString("rms %1 px, bound %2 px").arg(rms).arg(limit)));
    // And the stated deviation is honest within a quarter.
    QVERIFY(std::fabs(std::sqrt(stated / trials) / rms - 1) < 0.25);
}

// The whole way, from frames to a place, against the bound of the same recording: Kay, Estimation Theory,
// with place (two), power and each pixel's level unknown, blur, plate and course of the power known. The
// derivatives are differences of recordings without noise, rendered from the closed form of Carslaw and
// Jaeger, 10.4. Setting: uniform plate of 20 W/mK and 1.6 mm without loss, blur 0.8 px, 0.5 mm a pixel, 48 x
// 40 pixels, 25 Hz, 20 s, pulses of 1 s on and 1 s off, white noise of 60 mK a frame. Wanted: rms error at
// most 1.5 times the bound.
void TestNoise::recordingsComeNearTheCramerRaoBound_data() {
    QTest::addColumn<double>("watts");
    QTest::newRow("3 mW") << 3e-3;
    QTest::newRow("10 mW") << 10e-3;
}

void TestNoise::recordingsComeNearTheCramerRaoBound() {
    QFETCH(double, watts);
    testing::RenderSettings settings;
    settings.width = 48;
    settings.height = 40;
    settings.seconds = 20;
    settings.netd_mk = 60;
    const PixelPoint truth{24.3, 19.6};
    constexpr double step_px = 0.05;
    const auto clean = [&](double dx, double dy, double factor) {
        auto silent = settings;
        silent.netd_mk = 0;
        std::vector<cv::Mat> frames;
        for (const auto& frame :
             testing::render({{{truth.x_px + dx, truth.y_px + dy}, watts * factor}}, silent).frames) {
            cv::Mat kelvin;
            frame.centikelvin.convertTo(kelvin, CV_64F, 0.01 / factor);
            frames.push_back(kelvin);
        }
        return frames;
    };
    const double factor = 5 / watts; // millikelvins must not drown in the rounding to 10 mK
    const auto left = clean(-step_px, 0, factor), right = clean(step_px, 0, factor),
               up = clean(0, -step_px, factor), down = clean(0, step_px, factor), at = clean(0, 0, factor);
    // Columns: place, power; each pixel's level is taken out by its mean over time.
    cv::Matx33d information = cv::Matx33d::zeros();
    for (int y = 0; y < settings.height; ++y)
        for (int x = 0; x < settings.width; ++x) {
            std::vector<cv::Vec3d> slopes;
            cv::Vec3d mean(0, 0, 0);
            for (std::size_t f = 0; f < at.size(); ++f) {
                const cv::Vec3d slope((right[f].at<double>(y, x) - left[f].at<double>(y, x)) / (2 * step_px),
                                      (down[f].at<double>(y, x) - up[f].at<double>(y, x)) / (2 * step_px),
                                      at[f].at<double>(y, x));
                slopes.push_back(slope);
                mean += slope / static_cast<double>(at.size());
            }
            for (const cv::Vec3d& slope : slopes)
                information += (slope - mean) * (slope - mean).t();
        }
    const double sigma = settings.netd_mk * 1e-3;
    const cv::Matx33d bound = (information * (1 / (sigma * sigma))).inv();
    double squares = 0;
    int found = 0;
    constexpr int trials = 30;
    for (int i = 0; i < trials; ++i) {
        settings.seed = static_cast<std::uint64_t>(i) + 500;
        const auto located = locateInRecording(testing::render({{truth, watts}}, settings), nullptr);
        if (!located.ok() || located.value().sources.empty()) continue;
        ++found;
        const PixelPoint place = located.value().sources.front().spot.at;
        squares += std::pow(place.x_px - truth.x_px, 2) + std::pow(place.y_px - truth.y_px, 2);
    }
    QVERIFY2(found >= trials - 1, qPrintable(QString::number(found)));
    const double rms = std::sqrt(squares / found), limit = std::sqrt(bound(0, 0) + bound(1, 1));
    QVERIFY2(rms < 1.5 * limit,
             qPrintable(QString("rms %1 px, bound %2 px: %3 times").arg(rms).arg(limit).arg(rms / limit)));
    qInfo("rms %.4f px, bound %.4f px: %.2f times", rms, limit, rms / limit);
}
