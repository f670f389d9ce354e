#include "support/recordings.h"
#include "thermal/locate.h"
#include "thermal/passing.h"
#include "unit/thermal/test_thermal.h"

#include <QTest>
#include <algorithm>
#include <cmath>

using namespace ustor;
using testing::RenderSettings;

namespace {

constexpr PixelPoint source{40.3, 21.6};

RenderSettings settings() {
    RenderSettings s;
    s.width = 80;
    s.height = 56;
    s.seconds = 20;
    return s;
}

/// A sleeve from the left edge up to a column, six kelvin warmer than the board, from one time to another.
void cover(Recording& recording, int upTo, double from_s, double to_s) {
    for (auto& frame : recording.frames)
        if (frame.time_s >= from_s && frame.time_s < to_s)
            frame.centikelvin(cv::Rect(0, 12, upTo, 22)) += 600;
}

struct Looked : RepairedFrames {
    explicit Looked(const Recording& recording) : RepairedFrames(repairFrames(recording.frames)) {
        leaveOutPassing(*this, recording.supply);
    }
    bool at(double time_s, int block) const {
        const auto i = static_cast<std::size_t>(std::lower_bound(times_s.begin(), times_s.end(), time_s) -
                                                times_s.begin());
        return !covered[i].empty() && covered[i].data[block] != 0;
    }
    bool anything() const {
        return std::any_of(covered.begin(), covered.end(), [](const cv::Mat& m) { return !m.empty(); });
    }
};

int blockOf(PixelPoint p) {
    const int side = PictureBlocks::side_px;
    return static_cast<int>(p.y_px) / side * PictureBlocks::across(settings().width) +
           static_cast<int>(p.x_px) / side;
}

} // namespace

void TestPassing::aSleeveCountsOnlyWhereAndWhileItIs() {
    auto recording = testing::render({{source, 0.05}}, settings());
    cover(recording, 48, 6, 10);
    const Looked looked(recording);
    QVERIFY(looked.at(7, blockOf(source)));
    QVERIFY(looked.at(9.9, blockOf({4, 20})));
    QVERIFY(!looked.at(5, blockOf(source)));
    QVERIFY(!looked.at(11, blockOf(source)));
    QVERIFY(!looked.at(8, blockOf({70, 50})));
}

// A hand that comes before the first pulse and goes within the second can be followed by several lags
// together: it is seen in all of its frames nevertheless.
void TestPassing::aHandWithTheFirstPulsesIsSeen() {
    for (const double from_s : {0.6, 1.0, 1.6, 2.2}) {
        const double to_s = from_s + 3.5;
        auto recording = testing::render({{source, 0.05}}, settings());
        cover(recording, 48, from_s, to_s);
        const Looked looked(recording);
        for (double t = from_s + 0.1; t < to_s; t += 0.2)
            QVERIFY2(looked.at(t, blockOf(source)), qPrintable(QString("%1 of %2").arg(t).arg(from_s)));
    }
}

void TestPassing::whatFollowsThePowerStays() {
    QVERIFY(!Looked(testing::render({{source, 0.5}}, settings())).anything());
    // Nor what cools down all the while, as a place that was reworked with hot air; common practice.
    auto recording = testing::render({{source, 0.05}}, settings());
    for (auto& frame : recording.frames)
        frame.centikelvin(cv::Rect(0, 0, 24, 24)) += std::round(800 * std::exp(-frame.time_s / 15));
    QVERIFY(!Looked(recording).anything());
}

void TestPassing::aSourceUnderASleeveIsStillFound() {
    auto recording = testing::render({{source, 0.01}}, settings());
    cover(recording, 48, 6, 10);
    const auto located = locateInRecording(recording, nullptr);
    QVERIFY(located.ok());
    QCOMPARE(located.value().verdict, HeatVerdict::Point);
    QVERIFY2(distance_px(located.value().sources.front().spot.at, source) < 0.3,
             qPrintable(QString::number(distance_px(located.value().sources.front().spot.at, source))));
    const auto& repairs = located.value().repairs;
    QVERIFY(std::any_of(repairs.begin(), repairs.end(),
                        [](const RepairNote& done) { return done.repair == Repair::Passing; }));
}

// What was not seen makes the answer less sure: hidden in every second frame, half of the information is
// left, and the deviation grows by the root of two (Kay, Estimation Theory: information adds up over
// samples).
void TestPassing::whatWasNotSeenIsLessSure() {
    const auto recording = testing::render({{source, 0.05}}, settings());
    const Looked looked(recording);
    StepResponse response(settings().width, settings().height);
    for (std::size_t i = 0; i < looked.times_s.size(); ++i) {
        cv::Mat covered = cv::Mat::zeros(PictureBlocks::of({settings().width, settings().height}), CV_8UC1);
        if (i % 2 == 0) covered.data[blockOf(source)] = 255;
        response.add(looked.times_s[i], std::fmod(looked.times_s[i], 2.0) < 1 ? 0.05 : 0,
                     looked.rises_k.at(i), covered);
    }
    const auto maps = response.at(0.6);
    const double hidden = maps.excess.at<float>(static_cast<int>(source.y_px), static_cast<int>(source.x_px));
    QVERIFY2(std::fabs(hidden - std::sqrt(2.0)) < 0.05, qPrintable(QString::number(hidden)));
    QCOMPARE(maps.excess.at<float>(50, 70), 1.0F);
}
