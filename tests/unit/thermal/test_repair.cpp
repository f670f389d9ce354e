#include "support/heat_scenes.h"
#include "support/recordings.h"
#include "thermal/repair.h"
#include "thermal/repaired.h"
#include "unit/thermal/test_thermal.h"

#include <QTest>
#include <cmath>

using namespace ustor;

// What real cameras do (docs): freeze while the shutter is closed, jump after it.
void TestRepair::frozenFramesAreLeftOut() {
    testing::RenderSettings settings;
    settings.seconds = 4;
    settings.jumpAt_s = 2;
    const Recording recording = testing::render({}, settings);
    StreamRepair repair;
    int usable = 0;
    for (const auto& frame : recording.frames)
        usable += repair.take(frame).usable;
    QCOMPARE(repair.frozenFrames(), 8); // 0.3 s at 25 Hz: 2.00 to 2.28 s
    QCOMPARE(usable, 92);
    QCOMPARE(repair.jumps(), 1);
    QCOMPARE(repair.notes().size(), std::size_t(2));
}

// Two cores share out a whole recording; a stream goes through one by one. Here the camera moves, freezes,
// jumps, loses pictures.
void TestRepair::allAtOnceAsOneByOne() {
    auto recording = testing::makeScene(testing::SceneKind::Several, 9601).recording;
    recording.frames.resize(160);
    const RepairedFrames all = repairFrames(recording.frames);
    StreamRepair repair;
    std::size_t next = 0;
    for (const auto& frame : recording.frames) {
        const auto out = repair.take(frame);
        if (!out.usable || (next > 0 && frame.time_s <= all.times_s[next - 1])) continue;
        QCOMPARE(frame.time_s, all.times_s[next]);
        QCOMPARE(cv::norm(out.kelvin, all.rises_k.at(next), cv::NORM_INF), 0.0);
        ++next;
    }
    QCOMPARE(next, all.rises_k.size());
    QVERIFY(repair.moved_px() > 0.1);
    QCOMPARE(all.done.size(), repair.notes().size());
}

// What is left out stays as it came, and is told as not mended.
void TestRepair::eachCanBeLeftOut() {
    testing::RenderSettings settings;
    settings.seconds = 4;
    settings.jumpAt_s = 2;
    const Recording recording = testing::render({}, settings);
    StreamRepair repair({Repair::Frozen, Repair::Common});
    int usable = 0;
    double last_k = 0;
    for (const auto& frame : recording.frames) {
        const auto out = repair.take(frame);
        usable += out.usable;
        last_k = cv::mean(out.kelvin)[0];
    }
    QCOMPARE(usable, 100);
    QVERIFY2(std::fabs(last_k - 0.5) < 0.02, qPrintable(QString::number(last_k))); // the jump's half kelvin
    QVERIFY(repair.notes().empty());
    QVERIFY(repair.doubts().size() >= 2);
    for (const Repair each : allRepairs())
        QCOMPARE(repairFromWord(wordOf(each)), std::optional(each));
    QVERIFY(!repairFromWord("polish"));
}

void TestRepair::jumpsAndDriftAreTakenOut() {
    testing::RenderSettings settings;
    settings.seconds = 6;
    settings.jumpAt_s = 3;
    settings.drift_k_per_s = 0.03;
    const Recording recording = testing::render({}, settings);
    StreamRepair repair;
    for (const auto& frame : recording.frames) {
        const auto out = repair.take(frame);
        if (!out.usable) continue;
        // The mean over all pixels stays at nothing: camera noise over 3072 pixels, against a first frame as
        // noisy, and the median's own spread over a seventh of them.
        const double mean = cv::mean(out.kelvin)[0];
        QVERIFY2(std::fabs(mean) <
                     5 * settings.netd_mk * 1e-3 * std::sqrt(2.0) * 1.25 / std::sqrt(3072.0 / 7),
                 qPrintable(QString::number(mean)));
    }
}
