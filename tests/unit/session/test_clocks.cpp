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

void TestClocks::theOffsetStaysOnceSettled() {
    ClockMatch clock;
    for (int i = 0; i < 30; ++i)
        clock.toHost(i, i + 10.0);
    // An early arrival later on must not tear the model by a jump.
    QCOMPARE(clock.toHost(30, 30 + 9.5), 40.0);
    QCOMPARE(clock.toHost(31, 31 + 12.0), 41.0);
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
