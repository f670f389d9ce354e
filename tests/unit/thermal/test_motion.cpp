#include "base/random.h"
#include "thermal/motion.h"
#include "unit/thermal/test_thermal.h"

#include <QTest>
#include <cmath>

using namespace ustor;

namespace {

/// Warm parts as smooth hills, which can be drawn at any shift exactly; camera noise on top.
cv::Mat scene(double dx, double dy, double noise_k, std::uint64_t seed, bool parts = true) {
    Random places(3), noise(seed);
    cv::Mat picture = cv::Mat::zeros(96, 128, CV_32FC1);
    for (int i = 0; i < 30 && parts; ++i) {
        const double x0 = places.uniform(0, 128) + dx, y0 = places.uniform(0, 96) + dy,
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
