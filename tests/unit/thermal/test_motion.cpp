#include "base/random.h"
#include "thermal/motion.h"
#include "unit/thermal/test_thermal.h"

#include <QTest>
#include <cmath>

using namespace ustor;

namespace {

/// Warm parts as smooth hills, which can be drawn at any shift exactly; camera noise on top.
cv::Mat scene(double dx, double dy, double noise_k, std::uint64_t seed, bool parts = true,
              cv::Size size = {128, 96}) {
    Random places(3), noise(seed);
    cv::Mat picture = cv::Mat::zeros(size, CV_32FC1);
    for (int i = 0; i < 30 && parts; ++i) {
        const double x0 = places.uniform(0, size.width) + dx, y0 = places.uniform(0, size.height) + dy,
                     width = places.uniform(1.5, 4), height = places.uniform(-0.8, 1.5);
        for (int y = 0; y < picture.rows; ++y)
            for (int x = 0; x < picture.cols; ++x)
                picture.at<float>(y, x) += static_cast<float>(
                    height * std::exp(-((x - x0) * (x - x0) + (y - y0) * (y - y0)) / (2 * width * width)));
    }
    for (auto it = picture.begin<float>(); it != picture.end<float>(); ++it)
        *it += static_cast<float>(noise_k * noise.normal());
    return picture;
}

} // namespace

void TestMotion::subPixelShiftsAreFound() {
    MotionTracker tracker(scene(0, 0, 0.06, 1));
    (void)tracker.track(MotionTracker::smoothed(scene(0, 0, 0.06, 2)));
    for (int i = 1; i <= 12; ++i) {
        const double dx = 0.25 * i, dy = -0.11 * i;
        const PixelPoint found = tracker.track(
            MotionTracker::smoothed(scene(dx, dy, 0.06, 10 + i) + 0.4)); // and the shutter's jump
        QVERIFY2(std::hypot(found.x_px - dx, found.y_px - dy) < 0.1,
                 qPrintable(QString("%1: %2 %3").arg(i).arg(found.x_px - dx).arg(found.y_px - dy)));
    }
    const cv::Mat back = movedBack(scene(3, -1.3, 0, 1), {3, -1.3});
    const cv::Rect inner(8, 8, 112, 80);
    QVERIFY(cv::norm(back(inner), scene(0, 0, 0, 1)(inner), cv::NORM_INF) < 0.05);
}

// A camera that was clearly moved and then wanders by steps too small to be clear one by one. A random walk
// with steps of variance q, told with variance r each time, is followed with variance (sqrt(q^2 + 4 q r) - q)
// / 2 (Kalman, J. Basic Eng. 82 (1960) 35, in one dimension and at rest); the noise of the first frame is in
// all.
void TestMotion::smallStepsAreFollowedAsAWalk() {
    constexpr double noise_k = 0.35, step_px = 0.05, begin_px = 1.5;
    constexpr int frames = 150, settled = 20;
    MotionTracker tracker(scene(0, 0, noise_k, 1));
    (void)tracker.track(MotionTracker::smoothed(scene(0, 0, noise_k, 2)));
    Random walk(9);
    double dx = begin_px, dy = -begin_px, squares = 0, told = 0;
    for (int i = 0; i < frames; ++i) {
        dx += step_px * walk.normal();
        dy += step_px * walk.normal();
        const PixelPoint found = tracker.track(
            MotionTracker::smoothed(scene(dx, dy, noise_k, static_cast<std::uint64_t>(100 + i))));
        if (i < settled) continue;
        squares += (std::pow(found.x_px - dx, 2) + std::pow(found.y_px - dy, 2)) / 2 / (frames - settled);
        told += std::pow(tracker.sigma_px(), 2) / (frames - settled);
    }
    const double q = step_px * step_px, expected = (std::sqrt(q * q + 4 * q * told) - q) / 2 + told / 2;
    QVERIFY2(squares < 2 * expected,
             qPrintable(QString("%1 px, expected %2").arg(std::sqrt(squares)).arg(std::sqrt(expected))));
}

// A picture of so many pixels is searched by means of pairs; what is told is in its own pixels all the same.
void TestMotion::largePicturesToo() {
    const cv::Size size(641, 481);
    MotionTracker tracker(scene(0, 0, 0.06, 1, true, size));
    (void)tracker.track(MotionTracker::smoothed(scene(0, 0, 0.06, 2, true, size)));
    for (int i = 1; i <= 4; ++i) {
        const double dx = 1.3 * i, dy = -0.7 * i;
        const PixelPoint found =
            tracker.track(MotionTracker::smoothed(scene(dx, dy, 0.06, 10 + i, true, size)));
        const double off = std::hypot(found.x_px - dx, found.y_px - dy);
        QVERIFY2(off < 0.2 && off < 5 * tracker.sigma_px(),
                 qPrintable(QString("%1: %2 of %3").arg(i).arg(off).arg(tracker.sigma_px())));
    }
}

// Keys, IEEE Trans. ASSP 29 (1981): his cubic convolution draws a parabola without error, by any shift.
void TestMotion::movingBackDrawsParabolasExactly() {
    const auto parabola = [](double x, double y) { return 0.01 * x * x - 0.02 * x * y + 0.3 * y + 5; };
    cv::Mat picture(60, 80, CV_32FC1);
    for (int y = 0; y < picture.rows; ++y)
        for (int x = 0; x < picture.cols; ++x)
            picture.at<float>(y, x) = static_cast<float>(parabola(x, y));
    for (const PixelPoint shift : {PixelPoint{0, 0}, {0.25, -0.4}, {-3.7, 2.1}, {9.5, -9.99}}) {
        const cv::Mat back = movedBack(picture, shift);
        for (int y = 12; y < picture.rows - 12; ++y)
            for (int x = 12; x < picture.cols - 12; ++x) {
                const double off = back.at<float>(y, x) - parabola(x + shift.x_px, y + shift.y_px);
                QVERIFY2(std::fabs(off) < 2e-5, qPrintable(QString("%1 %2: %3").arg(x).arg(y).arg(off)));
            }
    }
}

void TestMotion::aSceneWithoutEdgesStandsStill() {
    MotionTracker tracker(scene(0, 0, 0.06, 1, false));
    for (int i = 1; i < 10; ++i) {
        const PixelPoint found = tracker.track(MotionTracker::smoothed(scene(0, 0, 0.06, 20 + i, false)));
        QCOMPARE(found.x_px, 0.0);
        QCOMPARE(found.y_px, 0.0);
    }
    QVERIFY(!tracker.canTell());
}

void TestMotion::aHandDoesNotPull() {
    MotionTracker tracker(scene(0, 0, 0.06, 1));
    (void)tracker.track(MotionTracker::smoothed(scene(0, 0, 0.06, 2)));
    for (int i = 1; i < 9; ++i) {
        cv::Mat frame = scene(0, 0, 0.06, 30 + i);
        frame(cv::Rect(0, 30, 12 * i, 20)) += 8.0;
        const PixelPoint found = tracker.track(MotionTracker::smoothed(frame));
        QVERIFY2(std::hypot(found.x_px, found.y_px) < 0.15,
                 qPrintable(QString("%1 %2").arg(found.x_px).arg(found.y_px)));
    }
}

// Bare metal shows what bends over the board, and cold when that has gone: its contrast turns over, which is
// no motion, and the motion meanwhile is followed. Most of the steep edges of this scene are such mirrors.
void TestMotion::mirrorsThatTurnColdAreNoMotion() {
    const auto picture = [](double dx, double dy, double shown_k, std::uint64_t seed) {
        cv::Mat mirrors = scene(dx, dy, 0, 1) * shown_k, parts = scene(dx + 20, dy + 9, 0, 1) * 0.2;
        cv::Mat sum = mirrors + parts + scene(0, 0, 0.03, seed, false);
        return sum;
    };
    MotionTracker tracker(picture(0, 0, 1.5, 100));
    (void)tracker.track(MotionTracker::smoothed(picture(0, 0, 1.5, 101)));
    PixelPoint found;
    constexpr int frames = 60;
    for (int i = 1; i <= frames; ++i) {
        const double dx = 0.03 * i, dy = -0.02 * i;
        found = tracker.track(MotionTracker::smoothed(picture(dx, dy, 1.5 - 3.0 * i / frames, 200 + i)));
    }
    QVERIFY2(std::hypot(found.x_px - 0.03 * frames, found.y_px + 0.02 * frames) < 0.4,
             qPrintable(QString("%1 %2").arg(found.x_px).arg(found.y_px)));
}
