#include "bench/guard_protocol.h"
#include "bench/output_ledger.h"
#include "bench/output_watch.h"
#include "bench/scpi_supply.h"
#include "standin/serial_line.h"
#include "support/awake_clock.h"
#include "support/fake_instrument.h"
#include "support/wait.h"
#include "unit/bench/test_bench.h"

#include <QDir>
#include <QFile>
#include <QTemporaryDir>
#include <QTest>
#include <memory>
#include <optional>

using namespace ustor;
using testing::AwakeClock;
using testing::FakeInstrument;
using testing::Obedient;
using testing::waitUntil;

namespace {

/// A supply on a fake instrument that obeys, with limits that were taken.
struct Limited {
    FakeInstrument instrument;
    ScpiSupply supply;
    QStringList refused, changed;
    explicit Limited(const InstrumentProfile& profile = {}) {
        instrument.answer = Obedient();
        QObject::connect(&supply, &Supply::refused, &supply,
                         [this](const Message& w) { refused << QString::fromStdString(w.text()); });
        QObject::connect(&supply, &ScpiSupply::limitsChanged, &supply,
                         [this](const Message& w) { changed << QString::fromStdString(w.text()); });
        supply.open(instrument.address(), profile);
        if (waitUntil([&] { return supply.isConnected() && instrument.heard.contains("MEAS:CURR?"); }))
            supply.setLimits(Volts(1), Amps(0.2), Volts(1.1), 2.5);
        held = waitUntil([&] { return supply.limitsHeld() || !refused.isEmpty(); }) && supply.limitsHeld();
        instrument.heard.clear();
    }
    bool comesOn() {
        return waitUntil([&] { return instrument.heard.contains("OUTP ON"); });
    }
    bool held = false;
};

InstrumentProfile profileWith(const QByteArray& body) {
    const auto read = profileFromJson(R"({"format":"ustor-instrument/1","kind":"supply")" + body + "}", "p");
    return read.ok() ? read.value() : InstrumentProfile();
}

} // namespace

void TestOutput::whatIsReadCountsAndNotWhatWasAsked() {
    OutputWatch watch;
    QCOMPARE(watch.state(0), OutputState::Unreached);
    watch.read(false, 0);
    QCOMPARE(watch.state(0.1), OutputState::Off);
    watch.askOn(0.2);
    QCOMPARE(watch.state(0.3), OutputState::On); // told so: whoever touches it now had better believe it
    watch.read(false, 0.3);
    QVERIFY(watch.mayBeOn()); // the "on" may only have not come yet
    watch.read(true, 0.4);
    watch.askOff(0.5);
    QCOMPARE(watch.state(0.5), OutputState::On); // "off" was asked, and not read
    watch.read(false, 0.6);
    QCOMPARE(watch.state(0.6), OutputState::Off);
    QVERIFY(!watch.mayBeOn());
}

void TestOutput::aLostLinkLeavesItUnknown() {
    OutputWatch watch;
    watch.read(false, 0);
    watch.lose(0.1);
    QCOMPARE(watch.state(0.2), OutputState::Unreached); // it was read as off, and nobody asked since
    watch.askOn(1);
    watch.read(true, 1.1);
    watch.lose(1.2);
    QCOMPARE(watch.state(1.3), OutputState::Unknown);
    watch.askOff(1.4);
    QCOMPARE(watch.state(100), OutputState::Unknown); // however often it is asked
    watch.read(false, 101);
    QCOMPARE(watch.state(101), OutputState::Off);
    // Nothing was read for longer than what was read stays fresh.
    watch.askOn(102);
    watch.read(true, 102.1);
    watch.askOff(102.2);
    QCOMPARE(watch.state(104), OutputState::Unknown);
    // Left on by somebody before.
    OutputWatch inherited;
    inherited.doubt();
    QCOMPARE(inherited.state(0), OutputState::Unknown);
    inherited.leadsPulled();
    QCOMPARE(inherited.state(0), OutputState::Unreached); // not "off": nothing was read
}

void TestOutput::disobeysAfterItsTime() {
    OutputWatch watch({0.5, 1});
    watch.askOn(0);
    watch.read(true, 0.1);
    watch.askOff(1);
    watch.read(true, 1.4);
    QCOMPARE(watch.state(1.4), OutputState::On);
    watch.askOff(1.45); // asked again and again: that buys it no time
    watch.read(true, 1.6);
    QCOMPARE(watch.state(1.6), OutputState::Disobeys);
    watch.read(false, 1.7);
    QCOMPARE(watch.state(1.7), OutputState::Off);
}

void TestOutput::aHandThatSwitchesItOn() {
    OutputWatch watch({0.5, 1});
    watch.read(false, 0);
    watch.read(true, 1);
    QCOMPARE(watch.state(1), OutputState::On);
    watch.read(true, 1.6); // it was told at once, by whoever read it
    QCOMPARE(watch.state(1.6), OutputState::Disobeys);
}

void TestOutput::limitsAreReadBackBeforeEachOn_data() {
    QTest::addColumn<QString>("panel");
    for (const char* hand : {"VOLT 12", "CURR 3", "VOLT:PROT 31"})
        QTest::newRow(hand) << QString(hand);
}

// A hand at the front panel between two pulses, or a reset.
void TestOutput::limitsAreReadBackBeforeEachOn() {
    QFETCH(QString, panel);
    Limited at;
    QVERIFY(at.held);
    at.supply.switchOn();
    QVERIFY(at.comesOn());
    at.supply.switchOff();
    QVERIFY(waitUntil([&] { return at.instrument.heard.contains("OUTP OFF"); }));
    at.instrument.heard.clear();
    (void)at.instrument.answer(panel);
    at.supply.switchOn();
    QVERIFY(waitUntil([&] { return !at.changed.isEmpty(); }));
    QVERIFY(!at.instrument.heard.contains("OUTP ON"));
    QVERIFY2(at.changed.first().contains("was set"), qPrintable(at.changed.first()));
    // Nothing comes on until limits were set anew.
    at.supply.switchOn();
    QVERIFY(waitUntil([&] { return !at.refused.isEmpty(); }));
    QVERIFY(!at.instrument.heard.contains("OUTP ON"));
}

void TestOutput::limitsThatChangeWhileItIsOn() {
    Limited at;
    at.supply.switchOn();
    QVERIFY(at.comesOn());
    const AwakeClock clock;
    (void)at.instrument.answer("CURR 5");
    QVERIFY(waitUntil([&] { return !at.changed.isEmpty(); }));
    constexpr int soon_ms = 500;
    QVERIFY2(clock.elapsed_ms() < soon_ms, qPrintable(QString::number(clock.elapsed_ms())));
    QVERIFY2(at.changed.first().contains("CURR?"), qPrintable(at.changed.first()));
}

void TestOutput::anotherChannelIsSeen() {
    const auto profile =
        profileWith(R"(,"channels":2,"select":"INST:NSEL {channel}","ask_channel":"INST:NSEL?")");
    Limited at(profile);
    QVERIFY(at.held);
    at.instrument.answer = [was = Obedient()](const QString& line) mutable {
        const QString usual = was(line);
        return line == "INST:NSEL?" ? QString("2") : usual;
    };
    at.supply.switchOn();
    QVERIFY(waitUntil([&] { return !at.changed.isEmpty(); }));
    QVERIFY2(at.changed.first().contains("channel 2"), qPrintable(at.changed.first()));
}

void TestOutput::whatCannotBeReadIsSetAnew() {
    Limited at(profileWith(R"(,"ask_volts":"","ask_amps":"","ask_trip":"")"));
    QVERIFY(at.held);
    for (int pulse = 0; pulse < 2; ++pulse) {
        at.instrument.heard.clear();
        at.supply.switchOn();
        QVERIFY(at.comesOn());
        for (const char* limit : {"VOLT:PROT 1.1000", "CURR 0.2000", "VOLT 1.0000"})
            QVERIFY2(at.instrument.heard.indexOf(limit) >= 0 &&
                         at.instrument.heard.indexOf(limit) < at.instrument.heard.indexOf("OUTP ON"),
                     limit);
        at.supply.switchOff();
    }
}

void TestOutput::timersOfItsOwnAreSet() {
    Limited at(profileWith(R"(,"watchdog":["WDOG {seconds}"],"before_on":["TIM {seconds}","TIM:ARM"])"));
    QVERIFY(at.held);
    at.supply.switchOn();
    QVERIFY(at.comesOn());
    const auto place = [&](const char* line) { return at.instrument.heard.indexOf(line); };
    QVERIFY(place("TIM 2.5000") >= 0 && place("TIM 2.5000") < place("TIM:ARM"));
    QVERIFY(place("TIM:ARM") < place("OUTP ON"));
    // The watchdog was set with the limits.
    QCOMPARE(at.instrument.answer("WDOG?"), QString::number(1e-3 * GuardTiming::supplySilence_ms, 'f', 4));
}

void TestOutput::aRefusedLimitLetsNothingOn() {
    FakeInstrument instrument;
    instrument.answer = [was = Obedient()](const QString& line) mutable {
        const QString usual = was(line);
        return line == "SYST:ERR?" ? QString("-222,\"Data out of range\"") : usual;
    };
    ScpiSupply supply;
    QStringList refused;
    connect(&supply, &Supply::refused, this,
            [&](const Message& why) { refused << QString::fromStdString(why.text()); });
    supply.open(instrument.address());
    QVERIFY(waitUntil([&] { return supply.isConnected(); }));
    supply.switchOn(); // none were set at all
    QVERIFY(refused.last().contains("no limits"));
    supply.setLimits(Volts(1), Amps(0.2), Volts(1.1));
    supply.switchOn();
    QVERIFY(waitUntil([&] { return refused.size() >= 2; }));
    supply.switchOn();
    constexpr int moment_ms = 100;
    QVERIFY(!waitUntil([&] { return instrument.heard.contains("OUTP ON"); }, moment_ms));
}

void TestOutput::neitherOnNorOffTellsNothing() {
    FakeInstrument instrument;
    QString output = "MAYBE";
    instrument.answer = [&output, was = Obedient()](const QString& line) mutable {
        return line == "OUTP?" ? output : was(line);
    };
    ScpiSupply supply;
    int samples = 0;
    connect(&supply, &Supply::telemetry, this, [&] { ++samples; });
    supply.open(instrument.address());
    QVERIFY(waitUntil([&] { return instrument.heard.count("OUTP?") >= 3; }));
    QCOMPARE(samples, 0);
    output = "0";
    QVERIFY(waitUntil([&] { return samples > 0; }));
}

void TestOutput::whoTalksWithoutPauseHoldsUpNothing() {
    FakeInstrument instrument;
    instrument.answer = Obedient();
    ScpiSupply supply;
    QString lost;
    int beats = 0;
    QTimer noise, beat;
    connect(&supply, &Supply::lost, this,
            [&](const Message& why) { lost = QString::fromStdString(why.text()); });
    connect(&noise, &QTimer::timeout, this, [&] { instrument.send(QByteArray("0.25\n").repeated(5000)); });
    connect(&beat, &QTimer::timeout, this, [&] { ++beats; });
    supply.open(instrument.address());
    QVERIFY(waitUntil([&] { return supply.isConnected(); }));
    noise.start(1);
    constexpr int beat_ms = 25, watched_ms = 1000;
    beat.start(beat_ms);
    const AwakeClock clock;
    QVERIFY(waitUntil([&] { return clock.elapsed_ms() >= watched_ms; }, 30 * watched_ms));
    QVERIFY2(beats > watched_ms / beat_ms / 2, qPrintable(QString::number(beats)));
    QVERIFY2(lost.contains("without being asked"), qPrintable(lost));
}

// A message device that does not answer: "off" is written beside the wait for its answer.
void TestOutput::offWaitsBehindNoRead() {
    standin::SerialLine line;
    const QString path = line.open();
    QStringList heard;
    std::optional<AwakeClock> clock;
    int off_ms = -1;
    connect(&line, &standin::SerialLine::line, this, [&](const QByteArray& text) {
        heard << QString::fromLatin1(text.trimmed());
        if (text.startsWith("OUTP OFF") && clock && off_ms < 0) off_ms = clock->elapsed_ms();
    });
    const auto address = instrumentFromText("usbtmc:" + path);
    QVERIFY(address.ok());
    ScpiSupply supply;
    supply.open(address.value());
    QVERIFY(waitUntil([&] { return heard.contains("*IDN?"); })); // which it never answers
    clock.emplace();
    supply.switchOff();
    QVERIFY(waitUntil([&] { return off_ms >= 0; }));
    constexpr int besideTheRead_ms = 150; // the read would have waited for 400
    QVERIFY2(off_ms < besideTheRead_ms, qPrintable(QString::number(off_ms)));
}

void TestOutput::theLedgerStandsUntilItIsCleared() {
    const QTemporaryDir runtime;
    const QByteArray before = qgetenv("XDG_RUNTIME_DIR");
    qputenv("XDG_RUNTIME_DIR", runtime.path().toLocal8Bit());
    const auto address = instrumentFromText("10.0.0.7:5025; channel=2");
    OutputLedger ledger(address.value(), false, 1);
    QVERIFY(ledger.stand(1234, 99));
    auto entries = OutputLedger::entries();
    QCOMPARE(entries.size(), std::size_t(1));
    QCOMPARE(entries.front().supply.text(), address.value().text());
    QCOMPARE(entries.front().guard, qint64(1234));
    QCOMPARE(entries.front().window, qint64(99));
    QVERIFY(ledger.isFor(entries.front()) && !entries.front().abandoned());
    QTest::qWait(GuardTiming::signature_ms + 50);
    QVERIFY(OutputLedger::entries().front().abandoned());
    ledger.sign();
    QVERIFY(!OutputLedger::entries().front().abandoned());
    // Nobody else may read or write it.
    QCOMPARE(QFile::permissions(OutputLedger::folder()) & (QFile::ReadOther | QFile::ReadGroup),
             QFile::Permissions());
    ledger.clear();
    QVERIFY(OutputLedger::entries().empty());
    qputenv("XDG_RUNTIME_DIR", before);
}

void TestOutput::spoiltLedgersAreTold() {
    const QTemporaryDir runtime;
    const QByteArray before = qgetenv("XDG_RUNTIME_DIR");
    qputenv("XDG_RUNTIME_DIR", runtime.path().toLocal8Bit());
    for (const auto& [name, text] :
         {std::pair{"a.json", "{"}, {"b.json", R"({"format":"ustor-output/1","supply":"serial:"})"}}) {
        QFile file(OutputLedger::folder() + "/" + name);
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write(text);
    }
    const auto entries = OutputLedger::entries();
    QCOMPARE(entries.size(), std::size_t(2));
    for (const LedgerEntry& entry : entries)
        QVERIFY(!entry.trouble.empty());
    qputenv("XDG_RUNTIME_DIR", before);
}
