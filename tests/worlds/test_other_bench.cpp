#include "worlds/other_bench.h"
#include "worlds/test_worlds.h"

#include <QTest>
#include <cmath>

using namespace ustor;

// A customer brings a board that does not start; with new parts for all that is wrong it does.
void TestOtherBench::everyBoardIsDeadAndOnesRepairedStart() {
    for (std::uint64_t seed = 1; seed < 40; ++seed) {
        Random random(seed);
        testing::OtherBench bench(random);
        QVERIFY2(bench.plugIn().reaction != Reaction::Starts, bench.story().c_str());
        if (!bench.repairable()) continue;
        const auto faults = bench.faults();
        for (const auto& fault : faults)
            bench.refit(fault.part, true);
        QVERIFY(bench.mended());
        QVERIFY2(bench.plugIn().reaction == Reaction::Starts, qPrintable(QString::number(seed)));
    }
}

// Ohm's law: a short to ground beside the rail's own load, to what a meter's contacts add.
void TestOtherBench::aShortReadsAsItIs() {
    int seen = 0;
    testing::WorldStatistics statistics;
    statistics.slip = 0;
    for (std::uint64_t seed = 1; seed < 60; ++seed) {
        Random random(seed);
        testing::OtherBench bench(random, statistics);
        const auto& fault = bench.faults().front();
        const bool plain = bench.faults().size() == 1 && fault.kind == testing::WorldFault::Kind::Short &&
                           fault.b < 0 && fault.fromVolts == 0 && bench.truth().railOf(fault.a);
        if (!plain) continue;
        double siemens = 1 / fault.ohms;
        for (const auto& e : bench.truth().elements)
            if (e.own && e.a == fault.a) siemens += 1 / e.ohms;
        const Reading reading = bench.measure(fault.a, -1, MeterMode::Ohms);
        QCOMPARE(reading.state, ReadingState::Value);
        QVERIFY2(std::fabs(reading.value - 1 / siemens) < 0.6 + 0.06 / siemens, bench.story().c_str());
        ++seen;
    }
    QVERIFY(seen > 10);
}
