#include "support/recordings.h"
#include "thermal/repair.h"
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
