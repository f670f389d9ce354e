#include "bench/guarded_supply.h"
#include "scenarios/test_scenarios.h"
#include "session/bench_link.h"
#include "session/practice/hands.h"
#include "session/practice/standin_process.h"
#include "support/energised.h"
#include "support/wait.h"

#include <QProcess>
#include <QTest>
#include <csignal>

using namespace ustor;
using testing::waitUntil;

namespace {

/// The simulated bench with its hands; leads on the shorted rail.
struct Bench {
    StandInProcess process;
    Hands hands;
    ~Bench() { testing::endGuardsOf(process.address().supply); }
    bool start() {
        const QString boards = qEnvironmentVariable("USTOR_DEMO_BOARDS") + "/greenhouse-controller";
        const QStringList arguments{
            boards + ".356", boards + ".centroid.csv", "--fault", "C10", "--ohms", "0.3"};
        const auto started = process.start(programBeside("ustor-standin"), arguments);
        return started.ok() && hands.open(process.address().control).ok() && hands.leads("L2.2", "J1.2").ok();
    }
    /// A supply behind its guard that delivers into the short; the text says what went wrong.
    QString energise(GuardedSupply& supply) {
        supply.open(process.address().supply);
        if (!waitUntil([&] { return supply.isConnected(); })) return "no connection";
        supply.cap(Volts(1.3), Amps(1));
        supply.setLimits(Volts(1), Amps(0.5), Volts(1.1));
        supply.switchOn();
        return waitUntil([&] { return outputOn(); }) ? QString() : "the output did not come on";
    }
    bool outputOn() { return hands.ask({{"do", "state"}}).value()["output"].toBool(); }
};

} // namespace

void TestGuard::capHoldsAndNothingPassesWithoutOne() {
    Bench bench;
    QVERIFY(bench.start());
    GuardedSupply supply(programBeside("ustor-guard"));
    QStringList refused;
    connect(&supply, &Supply::refused, this,
            [&](const Message& why) { refused << QString::fromStdString(why.text()); });
    supply.open(bench.process.address().supply);
    QVERIFY(waitUntil([&] { return supply.isConnected(); }));
    supply.switchOn();
    QVERIFY(waitUntil([&] { return refused.size() == 1; }));
    supply.cap(Volts(1.3), Amps(1));
    supply.setLimits(Volts(2), Amps(0.5), Volts(2.2));
    QVERIFY(waitUntil([&] { return refused.size() == 2; }));
    QVERIFY(refused.last().contains("above the cap"));
    supply.setLimits(Volts(1), Amps(0.5), Volts(1.1));
    supply.switchOn();
    QVERIFY(waitUntil([&] { return bench.outputOn(); }));
    const auto state = bench.hands.ask({{"do", "state"}}).value();
    QCOMPARE(state["set_volts"].toDouble(), 1.0);
    QCOMPARE(state["over_volts"].toDouble(), 1.1);
    // A wish above the cap while it is on switches off.
    supply.setLimits(Volts(1), Amps(3), Volts(1.1));
    QVERIFY(waitUntil([&] { return !bench.outputOn(); }));
}

void TestGuard::patienceIsForSimulatedBenchesOnly() {
    QProcess guard;
    guard.start(programBeside("ustor-guard"), {"--supply", "192.0.2.1:5025", "--patience", "5"});
    QVERIFY(guard.waitForFinished());
    QCOMPARE(guard.exitCode(), 2);
    QVERIFY(guard.readAllStandardError().contains("only for a simulated bench"));
}

void TestGuard::comesBackOffAfterAPulledCable() {
    Bench bench;
    QVERIFY(bench.start());
    GuardedSupply supply(programBeside("ustor-guard"));
    QString lost;
    connect(&supply, &Supply::lost, this,
            [&](const Message& why) { lost = QString::fromStdString(why.text()); });
    QCOMPARE(bench.energise(supply), QString());
    QVERIFY(bench.hands.ask({{"do", "unplug"}, {"what", "supply"}}).ok());
    QVERIFY(waitUntil([&] { return !lost.isEmpty(); }));
    QVERIFY(bench.outputOn()); // nobody can reach it: its own limits hold
    QVERIFY(waitUntil([&] { return supply.outputState() == OutputState::Unknown; }, 2000));
    QVERIFY(bench.hands.ask({{"do", "plug"}, {"what", "supply"}}).ok());
    QVERIFY(waitUntil([&] { return !bench.outputOn(); }, 3000));
    QVERIFY(waitUntil([&] { return supply.isConnected(); }));
    QVERIFY(waitUntil([&] { return supply.outputState() == OutputState::Off; }));
}

void TestGuard::deafSupplyIsTold() {
    Bench bench;
    QVERIFY(bench.start());
    GuardedSupply supply(programBeside("ustor-guard"));
    QStringList told;
    connect(&supply, &GuardedSupply::switchedOffByGuard, this,
            [&](GuardCause, const Message& why) { told << QString::fromStdString(why.text()); });
    connect(&supply, &Supply::lost, this,
            [&](const Message& why) { told << QString::fromStdString(why.text()); });
    QCOMPARE(bench.energise(supply), QString());
    QVERIFY(bench.hands.ask({{"do", "deaf"}, {"on", true}}).ok());
    QVERIFY(waitUntil([&] { return !told.isEmpty(); }, 2000));
    const auto state = bench.hands.ask({{"do", "state"}}).value();
    QVERIFY(state["set_volts"].toDouble() <= 1.0); // the limits that were set before still hold
    QVERIFY(bench.hands.ask({{"do", "deaf"}, {"on", false}}).ok());
    QVERIFY(waitUntil([&] { return !bench.outputOn(); }, 3000));
}

// A camera whose clock stood still must not count as silent for ever after.
void TestGuard::benchThatSleptKeepsInStep() {
    Bench bench;
    QVERIFY(bench.start());
    BenchLink link(programBeside("ustor-guard"));
    double lag_s = -1;
    connect(&link, &BenchLink::frame, this,
            [&](const ThermalFrame& frame) { lag_s = link.benchSeconds() - frame.time_s; });
    link.open(bench.process.address());
    QVERIFY(waitUntil([&] { return lag_s >= 0; }));
    const auto pid = static_cast<pid_t>(bench.process.process().processId());
    QVERIFY(pid > 0);
    ::kill(pid, SIGSTOP);
    QTest::qWait(1200);
    ::kill(pid, SIGCONT);
    QVERIFY(waitUntil([&] { return lag_s > 0.5; }));
    QVERIFY(waitUntil([&] { return lag_s < 0.2; }));
}
