#include "diagnosis/rail_rules.h"
#include "support/boards.h"
#include "unit/diagnosis/test_diagnosis.h"

#include <QTest>

using namespace ustor;

// Every row: common practice.
void TestRailRules::readingsOfTheTrade_data() {
    QTest::addColumn<QString>("mode");
    QTest::addColumn<QString>("shown");
    QTest::addColumn<bool>("core");
    QTest::addColumn<QString>("expected");
    QTest::newRow("0.45 V healthy") << "diode"
                                    << "0.45" << false << "healthy";
    QTest::newRow("OL on an unloaded rail") << "diode"
                                            << "OL" << false << "healthy";
    QTest::newRow("0.004 V hard short") << "diode"
                                        << "0.004" << false << "short";
    QTest::newRow("0.000 V hard short") << "diode"
                                        << "0" << false << "short";
    QTest::newRow("0.02 V all but one") << "diode"
                                        << "0.02" << false << "short";
    QTest::newRow("0.12 V leaks") << "diode"
                                  << "0.12" << false << "partial short";
    QTest::newRow("core 0.003 V") << "diode"
                                  << "0.003" << true << "low by nature";
    QTest::newRow("core 0.03 V") << "diode"
                                 << "0.03" << true << "low by nature";
    QTest::newRow("core 0.3 V") << "diode"
                                << "0.3" << true << "healthy";
    QTest::newRow("hundreds of ohms") << "ohms"
                                      << "450" << false << "healthy";
    QTest::newRow("0.3 ohm main") << "ohms"
                                  << "0.3" << false << "short";
    QTest::newRow("63 ohm partial") << "ohms"
                                    << "63" << false << "partial short";
    QTest::newRow("80 ohm partial") << "ohms"
                                    << "80" << false << "partial short";
    QTest::newRow("core 2.1 ohm") << "ohms"
                                  << "2.1" << true << "low by nature";
    QTest::newRow("core 0.3 ohm") << "ohms"
                                  << "0.3" << true << "low by nature";
    QTest::newRow("core 20 milliohm") << "ohms"
                                      << "20m" << true << "short";
    QTest::newRow("beep") << "beep"
                          << "0.4" << false << "short";
    QTest::newRow("beeps at 20 ohm") << "beep"
                                     << "20" << false << "partial short";
    QTest::newRow("volts say nothing") << "volts"
                                       << "0.4" << false << "unknown";
}

void TestRailRules::readingsOfTheTrade() {
    QFETCH(QString, mode);
    QFETCH(QString, shown);
    QFETCH(bool, core);
    QFETCH(QString, expected);
    const auto reading = readingFromText(shown.toStdString(), *meterModeFromWord(mode.toStdString()));
    QVERIFY(reading);
    const auto ruling = judgeReading(*reading, core ? RailKind::Core : RailKind::Main);
    QCOMPARE(QString::fromStdString(std::string(wordOf(ruling.state))), expected);
    QVERIFY(ruling.rule.text().size() > 10); // it says which rule spoke
}

void TestRailRules::kindsOfRails() {
    Board board = testing::smallBoard();
    QCOMPARE(railKindOf(board, board.findNet("+3V3")), RailKind::Main);
    QCOMPARE(railKindOf(board, board.findNet("+1V0_CORE")), RailKind::Core);
    QCOMPARE(railKindOf(board, board.findNet("SW")),
             RailKind::Core); // reads as what hangs behind its inductor
    for (Net& net : board.nets)
        net.nominal.reset();
    QCOMPARE(railKindOf(board, board.findNet("+1V0_CORE")), RailKind::Core);
    QCOMPARE(railKindOf(board, board.findNet("+3V3")), RailKind::Main);
}
