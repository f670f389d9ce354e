#include "bench/scpi_meter.h"
#include "bench/scpi_supply.h"
#include "support/fake_instrument.h"
#include "support/wait.h"
#include "unit/bench/test_bench.h"

#include <QElapsedTimer>
#include <QTest>
#include <QThread>

using namespace ustor;
using testing::FakeInstrument;
using testing::waitUntil;

void TestScpi::settingsAreCheckedAgainstTheErrorQueue() {
    FakeInstrument instrument;
    instrument.answer = [](const QString& line) {
        return line == "SYST:ERR?" ? QString("-222,\"Data out of range\"") : QString();
    };
    ScpiConnection connection;
    connection.open(instrument.address());
    QString error;
    connection.set("VOLT 99",
                   [&](const Result<QString>& r) { error = r.ok() ? r.value() : QString("lost"); });
    QVERIFY(waitUntil([&] { return !error.isEmpty(); }));
    QVERIFY(error.contains("-222"));
    QCOMPARE(instrument.heard, (QStringList{"VOLT 99", "SYST:ERR?"}));
}

void TestScpi::silenceEndsInATimeOutAndAFreshConnection() {
    FakeInstrument instrument;
    ScpiConnection connection;
    connection.setTimeout(150);
    QString lost, answer;
    connect(&connection, &ScpiConnection::lost, this,
            [&](const Message& why) { lost = QString::fromStdString(why.text()); });
    connection.open(instrument.address());
    connection.query("READ?", [&](const Result<QString>& r) {
        answer = r.ok() ? "ok" : QString::fromStdString(r.error().text());
    });
    QVERIFY(waitUntil([&] { return !answer.isEmpty(); }));
    QVERIFY(answer.contains("no answer within 150 ms"));
    QVERIFY(!lost.isEmpty());
    QVERIFY(waitUntil([&] { return instrument.connections >= 2; }));
}

// Instrument and connection stand in one process here: both sleep, and neither is to blame.
void TestScpi::ownSleepIsNotItsSilence() {
    FakeInstrument instrument;
    instrument.answer = testing::Obedient();
    ScpiConnection connection;
    constexpr int patience_ms = 150;
    connection.setTimeout(patience_ms);
    QString lost, answer;
    connect(&connection, &ScpiConnection::lost, this,
            [&](const Message& why) { lost = QString::fromStdString(why.text()); });
    connection.open(instrument.address());
    QVERIFY(waitUntil([&] { return connection.isOpen() && instrument.connections == 1; }));
    connection.query("READ?", [&](const Result<QString>& r) { answer = r.ok() ? r.value() : "none"; });
    QThread::msleep(4 * patience_ms);
    QVERIFY(waitUntil([&] { return !answer.isEmpty(); }));
    QCOMPARE(answer, QString("0.5"));
    QVERIFY2(lost.isEmpty(), qPrintable(lost));
}

void TestScpi::reconnectsAfterACut() {
    FakeInstrument instrument;
    instrument.answer = testing::Obedient();
    ScpiConnection connection;
    connection.open(instrument.address());
    QVERIFY(waitUntil([&] { return connection.isOpen(); }));
    instrument.cut();
    QVERIFY(waitUntil([&] { return !connection.isOpen(); }));
    QVERIFY(waitUntil([&] { return connection.isOpen(); }));
    QString answer;
    connection.query("*IDN?", [&](const Result<QString>& r) { answer = r.ok() ? r.value() : QString(); });
    QVERIFY(waitUntil([&] { return answer.startsWith("INVENTED"); }));
}

void TestScpi::lateAnswersAreNotTakenForOthers() {
    FakeInstrument instrument;
    ScpiConnection connection;
    connection.setTimeout(150);
    connection.open(instrument.address());
    QVERIFY(waitUntil([&] { return connection.isOpen(); }));
    instrument.send("9.99\n"); // out of turn
    QTest::qWait(50);
    instrument.answer = [](const QString& line) { return line == "B?" ? QString("2") : QString(); };
    QString a, b;
    connection.query("A?", [&](const Result<QString>& r) { a = r.ok() ? r.value() : QString("none"); });
    QVERIFY(waitUntil([&] { return !a.isEmpty(); }));
    QCOMPARE(a, QString("none"));
    QVERIFY(waitUntil([&] { return connection.isOpen(); }));
    connection.query("B?", [&](const Result<QString>& r) { b = r.ok() ? r.value() : QString("none"); });
    QVERIFY(waitUntil([&] { return !b.isEmpty(); }));
    QCOMPARE(b, QString("2"));
}

void TestScpi::supplySwitchesOffWhenItConnects() {
    FakeInstrument instrument;
    instrument.answer = testing::Obedient();
    ScpiSupply supply;
    int samples = 0;
    connect(&supply, &Supply::telemetry, this, [&](const SupplySample& s) {
        ++samples;
        QCOMPARE(s.volts, 0.5);
    });
    supply.open(instrument.address());
    QVERIFY(waitUntil([&] { return samples >= 3; }));
    QCOMPARE(instrument.heard.first(), QString("OUTP OFF"));
    instrument.heard.clear();
    instrument.cut();
    QVERIFY(waitUntil([&] { return instrument.heard.contains("OUTP OFF"); }));
}

void TestScpi::tripIsSetBeforeTheLevel() {
    FakeInstrument instrument;
    instrument.answer = testing::Obedient();
    ScpiSupply supply;
    supply.open(instrument.address());
    QVERIFY(waitUntil([&] { return supply.isConnected(); }));
    supply.setLimits(Volts(1), Amps(0.2), Volts(1.1));
    supply.switchOn();
    QVERIFY(waitUntil([&] { return instrument.heard.contains("OUTP ON"); }));
    const auto at = [&](const QString& start) {
        return instrument.heard.indexOf(QRegularExpression("^" + QRegularExpression::escape(start) + ".*"));
    };
    QVERIFY(at("VOLT:PROT 1.1") >= 0);
    QVERIFY(at("VOLT:PROT 1.1") < at("CURR 0.2"));
    QVERIFY(at("CURR 0.2") < at("VOLT 1.0"));
    QVERIFY(at("VOLT 1.0") < at("OUTP ON"));
    // Going down below the level that is set, the level goes first: many refuse such a trip.
    supply.setLimits(Volts(3), Amps(0.2), Volts(3.3));
    QVERIFY(waitUntil([&] { return at("VOLT 3.0") >= 0; }));
    instrument.heard.clear();
    supply.setLimits(Volts(1), Amps(0.2), Volts(1.1));
    QVERIFY(waitUntil([&] { return at("VOLT:PROT 1.1") >= 0; }));
    QVERIFY(at("VOLT 1.0") >= 0 && at("VOLT 1.0") < at("VOLT:PROT 1.1"));
    supply.switchOn();
    QVERIFY(waitUntil([&] { return instrument.heard.contains("OUTP ON"); }));
    // Switching off does not wait behind questions.
    supply.switchOff();
    QVERIFY(waitUntil(
        [&] { return instrument.heard.lastIndexOf("OUTP OFF") > instrument.heard.indexOf("OUTP ON"); }, 300));
}

void TestScpi::meterReadsItsModes() {
    FakeInstrument instrument;
    instrument.answer = [](const QString& line) {
        if (line == "MEAS:RES?") return QString("0.31");
        if (line == "MEAS:DIOD?") return QString("9.9E37"); // SCPI-1999: over range
        return testing::Obedient()(line);
    };
    ScpiMeter meter;
    std::vector<Reading> readings;
    connect(&meter, &Meter::reading, this, [&](const Reading& r) { readings.push_back(r); });
    meter.open(instrument.address());
    QVERIFY(waitUntil([&] { return meter.isConnected(); }));
    meter.read(MeterMode::Ohms);
    QVERIFY(waitUntil([&] { return readings.size() == 1; }));
    meter.read(MeterMode::Diode);
    QVERIFY(waitUntil([&] { return readings.size() == 2; }));
    QCOMPARE(readings[0].value, 0.31);
    QCOMPARE(readings[1].state, ReadingState::OverRange);
}

void TestScpi::meterThatTalksNonsense() {
    FakeInstrument instrument;
    instrument.answer = [](const QString&) { return QString("banana"); };
    ScpiMeter meter;
    QString failed;
    connect(&meter, &Meter::failed, this,
            [&](const Message& why) { failed = QString::fromStdString(why.text()); });
    meter.read(MeterMode::Ohms);
    QVERIFY(failed.contains("not connected"));
    meter.open(instrument.address());
    QVERIFY(waitUntil([&] { return meter.isConnected(); }));
    failed.clear();
    meter.read(MeterMode::Ohms);
    QVERIFY(waitUntil([&] { return !failed.isEmpty(); }));
    QVERIFY(failed.contains("banana"));
}

void TestScpi::addresses() {
    QCOMPARE(addressFromText("bench.local:1234").value().port, quint16(1234));
    QCOMPARE(addressFromText("bench.local").value().port, quint16(5025)); // raw SCPI's customary port
    for (const char* wrong : {"", ":", "host:", "host:0", "host:70000", "host:port"})
        QVERIFY2(!addressFromText(wrong).ok(), wrong);
    QVERIFY(!benchFromReadyLine("hello").ok());
    const auto bench = benchFromReadyLine(
        R"({"format":"ustor-standin/1","ready":true,"supply":1,"meter":2,"camera":3,"control":4,"speed":2,"patience":3})");
    QVERIFY(bench.ok());
    QCOMPARE(bench.value().speed, 2.0);
    QCOMPARE(bench.value().patience, 3.0);
}

// A bench meter in its slowest mode takes a second and more for a reading (common practice); whoever asks
// five times a second must not find it answering old questions for a minute.
void TestScpi::questionsDoNotPileUpBeforeASlowMeter() {
    FakeInstrument slow;
    slow.answer = [](const QString& line) { return line == "*IDN?" ? QString("slow") : QString(); };
    ScpiMeter meter;
    std::vector<Reading> readings;
    connect(&meter, &Meter::reading, this, [&](const Reading& r) { readings.push_back(r); });
    meter.open(InstrumentAddress(slow.address()));
    QVERIFY(waitUntil([&] { return slow.heard.contains("*IDN?") && meter.isConnected(); }));
    slow.heard.clear();
    for (int i = 0; i < 50; ++i)
        meter.read(MeterMode::Ohms);
    meter.read(MeterMode::Diode); // what is wanted in the end
    QVERIFY(meter.isReading());
    QVERIFY(waitUntil([&] { return !slow.heard.isEmpty(); }));
    QTest::qWait(50);
    QCOMPARE(slow.heard, QStringList{"MEAS:RES?"});
    slow.send("47.0\n");
    QVERIFY(waitUntil([&] { return slow.heard.size() == 2; }));
    slow.send("0.35\n");
    QVERIFY(waitUntil([&] { return !readings.empty(); }));
    // Only the newest question is answered: the ohms that came first are nobody's any more.
    QCOMPARE(slow.heard, (QStringList{"MEAS:RES?", "MEAS:DIOD?"}));
    QCOMPARE(readings.size(), std::size_t(1));
    QCOMPARE(readings.front().mode, MeterMode::Diode);
    QCOMPARE(readings.front().value, 0.35);
    QVERIFY(!meter.isReading());
}
