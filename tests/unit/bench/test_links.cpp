#include "bench/guard_protocol.h"
#include "bench/scpi_meter.h"
#include "bench/scpi_supply.h"
#include "standin/serial_line.h"
#include "support/fake_instrument.h"
#include "support/wait.h"
#include "unit/bench/test_bench.h"

#include <QDir>
#include <QTemporaryDir>
#include <QTest>

using namespace ustor;
using testing::FakeInstrument;
using testing::waitUntil;

namespace {

/// A supply of a test's own making at the far end of a serial line.
struct SerialSupply {
    standin::SerialLine line;
    QString path = line.open();
    QStringList heard;
    bool deaf = false;
    testing::Obedient answer{"0.25"};
    SerialSupply() {
        QObject::connect(&line, &standin::SerialLine::line, &line, [this](const QByteArray& text) {
            heard << QString::fromLatin1(text);
            if (!text.trimmed().endsWith('?')) (void)answer(QString::fromLatin1(text.trimmed()));
            if (deaf || !text.trimmed().endsWith('?')) return;
            line.write(answer(QString::fromLatin1(text.trimmed())).toLatin1() + '\n');
        });
    }
};

InstrumentAddress addressOf(const QString& text) {
    auto read = instrumentFromText(text);
    return read.ok() ? read.value() : InstrumentAddress();
}

Result<InstrumentProfile> profileOf(const char* body) {
    return profileFromJson(QByteArray("{\"format\":\"ustor-instrument/1\",") + body + "}", "p.json");
}

} // namespace

void TestLinks::addressesReadBack_data() {
    QTest::addColumn<QString>("text");
    for (const char* text : {"10.0.0.7:5025", "serial:/dev/ttyUSB0@115200", "usbtmc:/dev/usbtmc1",
                             "v4l2:/dev/video2; profile=/a b/c.json", "replay:/tmp/a recording",
                             "usbtmc:/dev/usbtmc0; profile=two.json; channel=2"})
        QTest::newRow(text) << QString(text);
}

void TestLinks::addressesReadBack() {
    QFETCH(QString, text);
    const auto read = instrumentFromText(text);
    QVERIFY(read.ok());
    QCOMPARE(read.value().text(), text);
}

void TestLinks::wrongAddressesSayWhy_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<QString>("why");
    QTest::newRow("no path") << "serial:"
                             << "path is missing";
    QTest::newRow("no speed") << "serial:/dev/x@fast"
                              << "speed of a serial port";
    QTest::newRow("no option") << "a:1; colour=red"
                               << "profile=FILE or channel=N";
    QTest::newRow("channel") << "a:1; channel=0"
                             << "from 1 to 9";
    QTest::newRow("port") << "a:99999"
                          << "port";
}

void TestLinks::wrongAddressesSayWhy() {
    QFETCH(QString, text);
    QFETCH(QString, why);
    const auto read = instrumentFromText(text);
    QVERIFY(!read.ok());
    QVERIFY2(QString::fromStdString(read.error().text()).contains(why), read.error().text().c_str());
}

void TestLinks::supplyOverEachWay_data() {
    QTest::addColumn<QString>("scheme");
    QTest::newRow("serial port") << "serial:%1@115200";
    QTest::newRow("message device") << "usbtmc:%1";
}

void TestLinks::supplyOverEachWay() {
    QFETCH(QString, scheme);
    auto far = std::make_unique<SerialSupply>();
    QVERIFY(!far->path.isEmpty());
    ScpiSupply supply;
    QString identity, lost;
    int samples = 0;
    connect(&supply, &Supply::connected, this, [&](const QString& who) { identity = who; });
    connect(&supply, &Supply::lost, this,
            [&](const Message& why) { lost = QString::fromStdString(why.text()); });
    connect(&supply, &Supply::telemetry, this, [&](const SupplySample& s) {
        ++samples;
        QCOMPARE(s.amps, 0.25);
    });
    supply.open(addressOf(scheme.arg(far->path)));
    QVERIFY(waitUntil([&] { return samples >= 3; }));
    QCOMPARE(far->heard.first(), QString("OUTP OFF"));
    QCOMPARE(identity, QString("INVENTED,THING,0,1"));
    supply.setLimits(Volts(1), Amps(0.2), Volts(1.1));
    QVERIFY(waitUntil([&] { return far->heard.contains("VOLT 1.0000"); }));
    // It falls silent: told, and greeted with "off" when it speaks again.
    far->deaf = true;
    QVERIFY(waitUntil([&] { return !lost.isEmpty(); }, 2000));
    far->heard.clear();
    far->deaf = false;
    samples = 0;
    QVERIFY(waitUntil([&] { return samples >= 1; }));
    QVERIFY(far->heard.contains("OUTP OFF"));
    // The cable is gone for good.
    lost.clear();
    far.reset();
    QVERIFY(waitUntil([&] { return !lost.isEmpty(); }, 3000));
    QVERIFY(!supply.isConnected());
}

void TestLinks::devicesThatAreNotThere() {
    for (const char* text : {"serial:/nowhere/ttyX", "usbtmc:/nowhere/usbtmc0"}) {
        ScpiMeter meter;
        QString lost;
        connect(&meter, &Meter::lost, this,
                [&](const Message& why) { lost = QString::fromStdString(why.text()); });
        meter.open(addressOf(text));
        QVERIFY(waitUntil([&] { return !lost.isEmpty(); }));
        QVERIFY2(lost.contains("nowhere"), qPrintable(lost));
    }
}

void TestLinks::offOvertakesWhatWaits() {
    FakeInstrument instrument; // answers nothing yet: all that is asked waits
    ScpiSupply supply;
    supply.open(instrument.address());
    QVERIFY(waitUntil([&] { return instrument.heard.contains("*IDN?"); }));
    supply.setLimits(Volts(1), Amps(0.2), Volts(1.1));
    supply.switchOn();
    supply.switchOff();
    instrument.answer = testing::Obedient("0");
    for (const char* limit : {"VOLT:PROT 1.1000", "CURR 0.2000", "VOLT 1.0000"}) // heard before it answered
        (void)instrument.answer(limit);
    instrument.send("SOMEBODY\n");
    QVERIFY(waitUntil([&] { return instrument.heard.contains("MEAS:CURR?"); }));
    QVERIFY(!instrument.heard.contains("OUTP ON"));
    // The limits were not forgotten with it: the next "on" stands on them.
    supply.switchOn();
    QVERIFY(waitUntil([&] { return instrument.heard.contains("OUTP ON"); }));
    for (const char* limit : {"VOLT:PROT 1.1000", "CURR 0.2000", "VOLT 1.0000"}) {
        QVERIFY2(instrument.heard.contains(limit), limit);
        QVERIFY(instrument.heard.indexOf(limit) < instrument.heard.indexOf("OUTP ON"));
    }
    QCOMPARE(instrument.heard.count("OUTP ON"), 1);
}

void TestLinks::onlyItsOwnChannel() {
    FakeInstrument instrument;
    instrument.answer = testing::Obedient();
    const auto profile = profileOf("\"kind\":\"supply\",\"channels\":2,\"select\":\"INST:NSEL {channel}\"");
    QVERIFY(profile.ok());
    InstrumentAddress address = instrument.address();
    address.channel = 2;
    ScpiSupply supply;
    supply.open(address, profile.value());
    QVERIFY(waitUntil([&] { return instrument.heard.contains("MEAS:CURR?"); }));
    QCOMPARE(instrument.heard.mid(0, 2), (QStringList{"INST:NSEL 2", "OUTP OFF"}));
    instrument.heard.clear();
    supply.setLimits(Volts(1), Amps(0.2), Volts(1.1));
    supply.switchOn();
    QVERIFY(waitUntil([&] { return instrument.heard.contains("OUTP ON"); }));
    QVERIFY(!instrument.heard.contains("INST:NSEL 1"));
    // The channel is chosen anew before each group: a hand may have turned the front panel's.
    const auto trip = instrument.heard.indexOf("VOLT:PROT 1.1000");
    QCOMPARE(instrument.heard[trip - 1], QString("INST:NSEL 2"));
    QCOMPARE(instrument.heard[instrument.heard.indexOf("OUTP ON") - 1], QString("INST:NSEL 2"));
}

void TestLinks::withoutAnErrorQueueSettingsAreReadBack() {
    FakeInstrument instrument;
    QString amps = "0.200";
    instrument.answer = [&](const QString& line) {
        return line == "CURR?"      ? amps
               : line == "VOLT?"    ? QString("1.0")
               : line.endsWith('?') ? QString("0.0")
                                    : QString();
    };
    const auto profile = profileOf("\"kind\":\"supply\",\"error\":\"\",\"set_trip\":\"\",\"ask_amps\":\"CURR?"
                                   "\",\"ask_volts\":\"VOLT?\"");
    QVERIFY(profile.ok());
    ScpiSupply supply;
    QStringList refused;
    connect(&supply, &Supply::refused, this,
            [&](const Message& why) { refused << QString::fromStdString(why.text()); });
    supply.open(instrument.address(), profile.value());
    QVERIFY(waitUntil([&] { return instrument.heard.contains("MEAS:CURR?"); }));
    supply.setLimits(Volts(1), Amps(0.2), Volts(1.1));
    QVERIFY(waitUntil([&] { return instrument.heard.contains("VOLT?"); }));
    QTest::qWait(50);
    QVERIFY(refused.isEmpty());
    QVERIFY(!instrument.heard.join(' ').contains("PROT"));
    QVERIFY(!instrument.heard.contains("SYST:ERR?"));
    amps = "2.000"; // ten times what was asked for
    supply.setLimits(Volts(1), Amps(0.2), Volts(1.1));
    QVERIFY(waitUntil([&] { return !refused.isEmpty(); }));
    QVERIFY(refused.first().contains("reads back as 2.000"));
}

void TestLinks::wrongProfilesSayWhy_data() {
    QTest::addColumn<QByteArray>("body");
    QTest::addColumn<QString>("why");
    const auto row = [](const char* name, const char* body, const char* why) {
        QTest::newRow(name) << QByteArray("{\"format\":\"ustor-instrument/1\",") + body + "}" << QString(why);
    };
    QTest::newRow("no JSON") << QByteArray("{\n\"a\": }") << "line 2";
    QTest::newRow("other format") << QByteArray("{\"format\":\"ustor-board/1\"}") << "ustor-instrument/1";
    row("no kind", "\"name\":\"x\"", "\"kind\" must be");
    row("misspelt", "\"kind\":\"supply\",\"setvolts\":\"V {volts}\"", "'setvolts'");
    row("no place for volts", "\"kind\":\"supply\",\"set_volts\":\"VOLT\"", "{volts}");
    row("nothing to switch off with", "\"kind\":\"supply\",\"off\":\"\"", "'off'");
    row("nothing is checked", "\"kind\":\"supply\",\"error\":\"\",\"ask_volts\":\"\"", "read back");
    row("no list", "\"kind\":\"supply\",\"before_on\":\"OUTP:TIM 3\"", "list of commands");
    row("channels", "\"kind\":\"supply\",\"channels\":1.5", "whole number");
    row("crop", "\"kind\":\"camera\",\"crop\":[0,0,10]", "whole pixels");
    row("scale", "\"kind\":\"camera\",\"kelvin_per_count\":\"x\"", "kelvin_per_count");
    row("line end", "\"kind\":\"meter\",\"line_end\":\"X\"", "line_end");
}

void TestLinks::wrongProfilesSayWhy() {
    QFETCH(QByteArray, body);
    QFETCH(QString, why);
    const auto read = profileFromJson(body, "p.json");
    QVERIFY(!read.ok());
    QVERIFY2(QString::fromStdString(read.error().text()).contains(why), read.error().text().c_str());
}

void TestLinks::shippedProfilesAreRead() {
    const QDir folder(USTOR_PROFILES);
    const QStringList files = folder.entryList({"*.json"});
    QVERIFY(files.size() >= 5);
    for (const QString& file : files) {
        QFile json(folder.filePath(file));
        QVERIFY(json.open(QIODevice::ReadOnly));
        const auto read = profileFromJson(json.readAll(), file);
        QVERIFY2(read.ok(), read.ok() ? "" : read.error().text().c_str());
        QVERIFY(!read.value().name.isEmpty());
        const auto other = read.value().kind == InstrumentProfile::Kind::Meter
                               ? InstrumentProfile::Kind::Supply
                               : InstrumentProfile::Kind::Meter;
        QVERIFY(!profileFor(folder.filePath(file), other).ok());
    }
}
