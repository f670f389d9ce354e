#include "base/random.h"
#include "session/clock_match.h"
#include "session/landmarks.h"
#include "support/boards.h"
#include "unit/session/test_session.h"

#include <QTest>
#include <cmath>

using namespace ustor;

// Arrivals are late by a fixed way and by queues; queues only ever add.
void TestClocks::queuesDoNotShiftTheClock() {
    ClockMatch clock;
    Random random(3);
    constexpr double way_s = 0.002, offset_s = 1234.5;
    double last = 0;
    for (int i = 0; i < 200; ++i) {
        const double stamp = i * 0.04, queue = random.uniform() < 0.3 ? 0.0 : random.uniform(0, 0.05);
        last = clock.toHost(stamp, stamp + offset_s + way_s + queue);
        if (clock.settled()) QVERIFY(std::fabs(last - (stamp + offset_s + way_s)) < 1e-9);
    }
    QVERIFY(clock.settled());
}

// A quartz clock is off by up to some hundred millionths (common practice: 20 to 100 ppm, with temperature
// more).
void TestClocks::aSlowClockIsFollowed() {
    for (const double ppm : {-200.0, 200.0}) {
        ClockMatch clock;
        Random random(4);
        double worst = 0;
        for (int i = 0; i < 25 * 1800; ++i) {
            const double truth = i * 0.04, queue = random.uniform() < 0.3 ? 0.0 : random.uniform(0, 0.05);
            const double last = clock.toHost(truth * (1 + ppm * 1e-6), truth + 100 + queue);
            if (i > 50) worst = std::max(worst, std::fabs(last - (truth + 100)));
        }
        // Followed without it, the half hour would have added up to 360 ms.
        QVERIFY2(worst < 0.006, qPrintable(QString("%1 ms").arg(worst * 1e3)));
    }
}

void TestClocks::aStandstillIsMadeUpFor() {
    ClockMatch clock;
    double stood_s = 0, last = 0;
    for (int i = 0; i < 250; ++i) {
        if (i == 100) stood_s = 0.8; // the device slept: its stamps lag from now on
        const double now = i * 0.04 + stood_s, before = last;
        last = clock.toHost(i * 0.04, now);
        QVERIFY(last > before || i == 0);
        if (i < 100 || i > 160) QVERIFY(std::fabs(last - now) < 1e-3);
    }
}

void TestClocks::aDeviceStartedAnewIsMatchedAnew() {
    ClockMatch clock;
    double last = 0;
    for (int i = 0; i < 100; ++i)
        last = clock.toHost(500 + i * 0.04, 7 + i * 0.04);
    QVERIFY(std::fabs(last - (7 + 99 * 0.04)) < 1e-9);
    for (int i = 0; i < 100; ++i) {
        const double now = 13 + i * 0.04; // its clock began at nought again
        last = clock.toHost(i * 0.04, now);
        QVERIFY(std::fabs(last - now) < 1e-9);
    }
    // And one that was set forwards.
    last = clock.toHost(900, 20);
    QVERIFY(std::fabs(last - 20) < 1e-9);
}

void TestClocks::landmarksLieFarApartOnTheirSide() {
    for (const char* stem : {"chart-plotter", "greenhouse-controller"}) {
        const Board board = testing::demoBoard(stem);
        const double diagonal = std::hypot(board.box().width_mm(), board.box().height_mm());
        for (const Side side : {Side::Top, Side::Bottom}) {
            const auto parts = landmarkParts(board, side, 5);
            QCOMPARE(parts.size(), std::size_t(5));
            for (std::size_t i = 0; i < parts.size(); ++i) {
                const Part& part = board.parts[parts[i]];
                QVERIFY(part.side == side || part.pads.front().through);
                for (std::size_t j = 0; j < i; ++j)
                    QVERIFY(distance_mm(part.centre, board.parts[parts[j]].centre) > 0.12 * diagonal);
            }
        }
    }
}
