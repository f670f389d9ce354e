#include "bench/clock.h"
#include "bench/guard_protocol.h"
#include "bench/guarded_supply.h"
#include "bench/output_ledger.h"
#include "scenarios/test_scenarios.h"
#include "session/bench_link.h"
#include "support/energised.h"
#include "support/wait.h"

#include <QDir>
#include <QFile>
#include <QTest>
#include <csignal>
#include <ctime>

using namespace ustor;
using testing::Energised;
using testing::waitUntil;

namespace {

constexpr int limit_ms = 1000;

OutputState lastState(const QByteArray& told) {
    const auto at = told.lastIndexOf("{\"state\":");
    constexpr int key = 9;
    return at < 0 ? OutputState::Unreached : static_cast<OutputState>(told.mid(at + key, 1).toInt());
}

} // namespace

void TestSafety::offWithinASecond_data() {
    QTest::addColumn<QStringList>("faults");
    QTest::addColumn<bool>("serial");
    for (const QString& fault : Energised::faults())
        if (!fault.startsWith("second") && fault != "cable pulled" && fault != "supply deaf")
            QTest::newRow(qPrintable(fault)) << QStringList{fault} << false;
    QTest::newRow("window killed, over a serial line") << QStringList{"window killed"} << true;
    // Any one process, or the window and either of the others: one is left.
    for (const char* window : {"window killed", "window stopped"})
        for (const char* other : {"guard killed", "guard stopped", "second killed", "second stopped"})
            QTest::addRow("%s, %s", window, other) << QStringList{window, other} << false;
    for (const char* guard : {"guard killed", "guard stopped"})
        for (const char* second : {"second killed", "second stopped"})
            QTest::addRow("%s, %s", guard, second) << QStringList{guard, second} << false;
}

// "Off within a second" as the project promises it, for whatever happens to the processes around it.
void TestSafety::offWithinASecond() {
    QFETCH(QStringList, faults);
    QFETCH(bool, serial);
    Energised energised;
    QCOMPARE(energised.start({}, serial), QString());
    for (const QString& fault : faults)
        energised.happen(fault);
    const auto off_ms = energised.offAfter_ms();
    QVERIFY2(off_ms.has_value(), energised.told());
    QVERIFY2(*off_ms < limit_ms, qPrintable(QString("%1 ms").arg(*off_ms)));
    QVERIFY(energised.staysOff());
}

void TestSafety::aSupplyThatHearsNoOffDisobeys() {
    Energised energised;
    QCOMPARE(energised.start(), QString());
    energised.tell({{"do", "stuck"}, {"on", true}});
    energised.tell({{"do", "panel"}, {"command", "CURR 5"}}); // the guard asks for off
    const bool disobeys =
        waitUntil([&] { return lastState(energised.told()) == OutputState::Disobeys; }, 3000);
    QVERIFY2(disobeys, energised.told());
    QVERIFY(energised.told().contains("limits changed"));
    QVERIFY(!QDir(energised.ledger()).entryList({"*.json"}).isEmpty());
    energised.tell({{"do", "stuck"}, {"on", false}});
    QVERIFY(energised.offAfter_ms().value_or(limit_ms) < limit_ms); // it was asked again and again
    QVERIFY(waitUntil([&] { return lastState(energised.told()) == OutputState::Off; }));
}

// Cable out, window gone, cable back: whoever is left has waited, however long it took.
void TestSafety::aCableThatComesBackLater() {
    Energised energised;
    QCOMPARE(energised.start(), QString());
    const pid_t guard = energised.guardPid(), second = energised.secondPid();
    energised.happen("cable pulled");
    energised.happen("window killed");
    constexpr int longerThanAnyPatience_ms = 4500;
    QTest::qWait(longerThanAnyPatience_ms);
    QVERIFY(energised.outputOn());
    QVERIFY(!QDir(energised.ledger()).entryList({"*.json"}).isEmpty());
    energised.mend();
    QVERIFY(energised.offAfter_ms().value_or(limit_ms) < limit_ms);
    // With nothing left to do all end, and the ledger is empty.
    QVERIFY(waitUntil([&] { return ::kill(guard, 0) != 0 && ::kill(second, 0) != 0; }));
    QVERIFY(QDir(energised.ledger()).entryList({"*.json"}).isEmpty());
}

void TestSafety::aGuardThatEndsAtOnceIsNotStartedWithoutEnd() {
    const QTemporaryDir folder;
    const QString program = folder.filePath("guard"), log = folder.filePath("log");
    QFile script(program);
    QVERIFY(script.open(QIODevice::WriteOnly));
    script.write("#!/bin/sh\necho started >> " + log.toLocal8Bit() + "\nexit 1\n");
    script.close();
    script.setPermissions(QFile::ReadOwner | QFile::ExeOwner);
    GuardedSupply supply(program);
    QString lost;
    connect(&supply, &Supply::lost, this,
            [&](const Message& why) { lost = QString::fromStdString(why.text()); });
    supply.open(InstrumentAddress(SocketAddress{"127.0.0.1", 9}));
    constexpr int watched_ms = 3000;
    QTest::qWait(watched_ms);
    QFile written(log);
    QVERIFY(written.open(QIODevice::ReadOnly));
    const auto starts = written.readAll().count("started");
    QVERIFY2(starts >= 2 && starts <= 7, qPrintable(QString::number(starts)));
    QVERIFY2(lost.contains("before it reached the supply"), qPrintable(lost));
}

// All three killed at once: the ledger stands, and the next program of the project switches off first.
void TestSafety::whatIsLeftOnIsSettledByTheNextProgram() {
    Energised energised;
    QCOMPARE(energised.start(), QString());
    energised.killAll();
    QVERIFY(energised.staysOff(10) == false);
    QVERIFY(!QDir(energised.ledger()).entryList({"*.json"}).isEmpty());
    QTest::qWait(GuardTiming::signature_ms + 100);
    QVERIFY(energised.outputOn());
    QProcess next;
    auto environment = QProcessEnvironment::systemEnvironment();
    environment.insert("XDG_RUNTIME_DIR", energised.runtime());
    next.setProcessEnvironment(environment);
    next.start(programBeside("ustor-cli"), {"board", "show", "/nowhere.356"});
    QVERIFY(next.waitForFinished());
    const QByteArray said = next.readAllStandardError();
    QVERIFY2(said.contains("now read as off"), said);
    QVERIFY(!energised.outputOn());
    QVERIFY(QDir(energised.ledger()).entryList({"*.json"}).isEmpty());
}

// No link and nobody alive: what is left is the timer in the supply itself, where its profile knows of one.
void TestSafety::aSupplyWithItsOwnTimerSwitchesItselfOff() {
    const QTemporaryDir folder;
    QFile profile(folder.filePath("timer.json"));
    QVERIFY(profile.open(QIODevice::WriteOnly));
    profile.write(
        R"({"format":"ustor-instrument/1","kind":"supply","before_on":["OUTP:LIM:TIME {seconds}"]})");
    profile.close();
    Energised energised;
    QCOMPARE(energised.start(profile.fileName()), QString());
    QVERIFY(energised.tell({{"do", "state"}})["output"].toBool());
    energised.happen("cable pulled");
    energised.killAll();
    constexpr int timer_ms = 3000; // the energiser's longest pulse is two seconds
    QVERIFY(energised.offAfter_ms(timer_ms).has_value());
}

void TestSafety::nothingComesOnWithoutALedger() {
    Energised energised; // for its bench only
    QCOMPARE(energised.start(), QString());
    energised.happen("window killed");
    QVERIFY(energised.offAfter_ms().has_value());
    const QTemporaryDir folder;
    QFile file(folder.filePath("no-folder"));
    QVERIFY(file.open(QIODevice::WriteOnly));
    const QByteArray before = qgetenv("XDG_RUNTIME_DIR");
    qputenv("XDG_RUNTIME_DIR", file.fileName().toLocal8Bit()); // a file: nothing can be written below it
    {
        GuardedSupply supply(programBeside("ustor-guard"));
        QString refused;
        connect(&supply, &Supply::refused, this,
                [&](const Message& why) { refused = QString::fromStdString(why.text()); });
        supply.open(energised.bench.address().supply);
        QVERIFY(waitUntil([&] { return supply.isConnected(); }));
        supply.cap(Volts(1.3), Amps(1));
        supply.setLimits(Volts(1), Amps(0.5), Volts(1.1));
        supply.switchOn();
        QVERIFY(waitUntil([&] { return !refused.isEmpty(); }));
        QVERIFY2(refused.contains("ledger"), qPrintable(refused));
        QVERIFY(!energised.outputOn());
    }
    qputenv("XDG_RUNTIME_DIR", before);
}

// A window that closes while the cable is out must not take the guard along, nor wait for it.
void TestSafety::theGuardOutlivesAWindowThatCloses() {
    Energised energised; // for its bench only
    QCOMPARE(energised.start(), QString());
    energised.happen("window killed");
    QVERIFY(energised.offAfter_ms().has_value());
    auto supply = std::make_unique<GuardedSupply>(programBeside("ustor-guard"));
    supply->open(energised.bench.address().supply);
    QVERIFY(waitUntil([&] { return supply->isConnected(); }));
    supply->cap(Volts(1.3), Amps(1));
    supply->setLimits(Volts(1), Amps(0.5), Volts(1.1));
    supply->switchOn();
    QVERIFY(waitUntil([&] { return energised.outputOn(); }));
    const auto guard = static_cast<pid_t>(supply->guardPid());
    energised.happen("cable pulled");
    const double begin_s = hostSeconds();
    supply.reset();
    constexpr double atOnce_s = 0.2;
    QVERIFY(hostSeconds() - begin_s < atOnce_s);
    QTest::qWait(limit_ms);
    QVERIFY(energised.outputOn());
    QCOMPARE(::kill(guard, 0), 0);
    energised.mend();
    QVERIFY(energised.offAfter_ms().value_or(limit_ms) < limit_ms);
    QVERIFY(waitUntil([&] { return ::kill(guard, 0) != 0; }));
}

// The clock of all silences goes on while the machine sleeps (Linux, clock_gettime(2): CLOCK_BOOTTIME).
void TestSafety::aSleepIsNoSilenceOfTheClock() {
    timespec boot{}, monotonic{};
    ::clock_gettime(CLOCK_BOOTTIME, &boot);
    ::clock_gettime(CLOCK_MONOTONIC, &monotonic);
    const double boot_s = static_cast<double>(boot.tv_sec) + 1e-9 * static_cast<double>(boot.tv_nsec);
    QVERIFY(std::abs(hostSeconds() - boot_s) < 0.1);
}
