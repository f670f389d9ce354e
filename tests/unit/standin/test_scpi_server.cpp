#include "standin/supply_server.h"
#include "support/boards.h"
#include "unit/standin/test_standin.h"

#include <QTcpSocket>
#include <QTest>

using namespace ustor;

namespace {

/// The simulated supply on a socket, asked line by line.
class Asker {
  public:
    Asker()
        : m_board(testing::demoBoard("greenhouse-controller")), m_world(m_board, setup()),
          m_server(
              m_world, [] {}, nullptr) {
        m_server.listen();
        m_socket.connectToHost("127.0.0.1", m_server.port());
        static_cast<void>(
            QTest::qWaitFor([this] { return m_socket.state() == QAbstractSocket::ConnectedState; }));
    }
    QString ask(const QString& line) {
        m_socket.write(line.toLatin1() + '\n');
        if (!line.contains('?')) return {};
        static_cast<void>(QTest::qWaitFor([this] { return m_socket.canReadLine(); }));
        return QString::fromLatin1(m_socket.readLine()).trimmed();
    }
    standin::World& world() { return m_world; }

  private:
    standin::Setup setup() const {
        standin::Setup setup;
        setup.fault = *standin::faultAt(m_board, "C10", 0.2);
        return setup;
    }
    Board m_board;
    standin::World m_world;
    standin::SupplyServer m_server;
    QTcpSocket m_socket;
};

} // namespace

// SCPI-1999: the short form is the capitals, either form in any case, optional nodes may be left out.
void TestScpiServer::shortAndLongForms_data() {
    QTest::addColumn<QString>("command");
    for (const char* c : {"VOLT 2.5", "volt 2.5", "VOLTAGE 2.5", "SOUR:VOLT 2.5", "SOURCE:VOLTAGE:LEVEL 2.5",
                          ":VOLT:LEV 2.5", "VOLT 2.5V", "VOLT   2.5"})
        QTest::newRow(c) << c;
}

void TestScpiServer::shortAndLongForms() {
    QFETCH(QString, command);
    Asker asker;
    asker.ask(command);
    QCOMPARE(asker.ask("VOLT?"), QString("2.500000"));
    QCOMPARE(asker.ask("SYST:ERR?"), QString("0,\"No error\""));
    QVERIFY(asker.ask("MEAS:VOLT?").toDouble() < 0.01);
    QVERIFY(!asker.ask("MEASURE:SCALAR:VOLTAGE:DC?").isEmpty());
}

// Standard error numbers of SCPI-1999, volume 2, chapter 21.
void TestScpiServer::errorQueue() {
    Asker asker;
    for (const auto& [line, error] : {std::pair{"VOLTA 1", "-113"},
                                      {"VOLT", "-109"},
                                      {"VOLT many", "-104"},
                                      {"VOLT 99", "-222"},
                                      {"OUTP MAYBE", "-224"},
                                      {"FOO?;SYST:ERR?", "-113"}}) {
        const QString answer =
            QString(line).contains('?') ? asker.ask(line) : (asker.ask(line), asker.ask("SYST:ERR?"));
        QVERIFY2(answer.startsWith(error), qPrintable(QString(line) + " -> " + answer));
    }
    QCOMPARE(asker.ask("VOLT?"), QString("0.000000")); // nothing was taken
    for (int i = 0; i < 40; ++i)
        asker.ask("FOO");
    int queued = 0;
    QString last;
    for (QString e = asker.ask("SYST:ERR?"); !e.startsWith("0,"); e = asker.ask("SYST:ERR?")) {
        ++queued;
        last = e;
    }
    QCOMPARE(queued, 16);
    QVERIFY(last.startsWith("-350"));
}

// IEEE 488.2 common commands.
void TestScpiServer::commonCommands() {
    Asker asker;
    QCOMPARE(asker.ask("*IDN?").split(',').size(), 4);
    QCOMPARE(asker.ask("*OPC?"), QString("1"));
    QCOMPARE(asker.ask("*TST?"), QString("0"));
    asker.ask("*ESE 32");
    asker.ask("*SRE 32");
    QCOMPARE(asker.ask("*ESE?"), QString("32"));
    asker.ask("FOO");
    QCOMPARE(asker.ask("*STB?").toInt() & 0x64, 0x64); // error queue, event summary, request
    QCOMPARE(asker.ask("*ESR?").toInt(), 32);          // command error, and read clears it
    QCOMPARE(asker.ask("*ESR?").toInt(), 0);
    asker.ask("*CLS");
    QCOMPARE(asker.ask("SYST:ERR?"), QString("0,\"No error\""));
    asker.ask("VOLT 5;OUTP ON");
    QCOMPARE(asker.ask("OUTP?"), QString("1"));
    asker.ask("*RST");
    QCOMPARE(asker.ask("OUTP?;VOLT?"), QString("0;0.000000"));
    QVERIFY(!asker.world().supply.output);
}
