#include "worlds/player.h"
#include "worlds/schools.h"
#include "worlds/test_worlds.h"
#include "worlds/told_case.h"

#include <QTest>

using namespace ustor;

// The judge's first move, followed to the letter on boards of a world that is not its own. The shares that it
// reaches over many boards are printed by the benchmarks; here: there is an end, and nothing is closed as
// fixed with a fault left inside.
void TestPlay::huntsEndAndLeaveNothingInside() {
    int repairable = 0, repaired = 0;
    for (std::uint64_t seed = 704; seed < 710; ++seed) {
        Random random(seed);
        testing::OtherBench bench(random);
        const testing::PlayResult r = testing::play(bench, {});
        QVERIFY2(r.ended, r.story.c_str());
        QVERIFY2(!r.leftInside(), r.story.c_str());
        repairable += r.repairable;
        repaired += r.repairable && r.mended && r.closedFixed;
    }
    QVERIFY2(2 * repaired > repairable, qPrintable(QString("%1 of %2").arg(repaired).arg(repairable)));
}

// A hunt in which nothing becomes likely costs more than the job pays: it is stopped. This one went on for
// ever.
void TestPlay::aHuntWithoutAnEndIsStopped() {
    constexpr std::uint64_t without = 7027;
    Random random(without);
    testing::OtherBench bench(random);
    const testing::PlayResult r = testing::play(bench, {});
    QVERIFY2(r.ended && !r.closedFixed, r.story.c_str());
    QCOMPARE(QByteArray(r.end.c_str()), QByteArray("not-worth-it"));
}

// What is not on the bench is not asked for.
void TestPlay::aMeterAloneIsEnoughToPlay() {
    for (std::uint64_t seed = 731; seed < 733; ++seed) {
        Random random(seed);
        testing::OtherBench bench(random);
        testing::PlaySettings settings;
        settings.knowledge.tools = {true, false, false};
        const testing::PlayResult r = testing::play(bench, settings);
        QVERIFY2(r.ended, r.story.c_str());
        QCOMPARE(r.injections, 0);
    }
}

// A habit has an end too, keeps to its lifts, and finds some of what it is made for.
void TestPlay::habitsArePlayedToo() {
    int capacitors = 0, mended = 0;
    for (std::uint64_t seed = 1; capacitors < 4 && seed < 200; ++seed) {
        Random random(seed);
        testing::OtherBench bench(random);
        if (testing::kindOfFaults(bench) != "capacitor") continue;
        ++capacitors;
        const testing::PlayResult result = testing::playByHabit(bench, testing::Habit::CapacitorsFirst);
        QVERIFY(result.ended && !result.leftInside());
        mended += result.mended && result.closedFixed;
        QVERIFY(result.lifts <= 12);
    }
    QCOMPARE(capacitors, 4);
    QVERIFY2(mended >= 1, qPrintable(QString::number(mended)));
}
