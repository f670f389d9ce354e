#include "board/case_size.h"
#include "board/nominal_voltage.h"
#include "board/part_class.h"
#include "support/boards.h"
#include "unit/board/test_board.h"

#include <QTest>

using namespace ustor;

void TestGuesses::classes_data() {
    QTest::addColumn<QString>("designator");
    QTest::addColumn<QString>("value");
    QTest::addColumn<QString>("package");
    QTest::addColumn<QString>("expected");
    // Designator letters by IEEE 315 habit; the rest is common practice.
    QTest::newRow("ceramic") << "C12"
                             << "100n"
                             << "0402"
                             << "ceramic capacitor";
    QTest::newRow("tantalum") << "C7"
                              << "100u tantalum"
                              << "2917"
                              << "polar capacitor";
    QTest::newRow("sense") << "R5"
                           << "0R010"
                           << "1206"
                           << "sense resistor";
    QTest::newRow("zero ohm") << "R6"
                              << "0"
                              << "0402"
                              << "sense resistor";
    QTest::newRow("another part's value") << "R8"
                                          << "100n"
                                          << "0402"
                                          << "resistor";
    QTest::newRow("pull-up") << "R7"
                             << "4k7"
                             << "0402"
                             << "resistor";
    QTest::newRow("bead") << "L3"
                          << "600R@100MHz"
                          << "0603"
                          << "ferrite";
    QTest::newRow("inductor") << "L1"
                              << "2u2"
                              << "IND-5x5"
                              << "inductor";
    QTest::newRow("fuse") << "F1"
                          << "5A"
                          << "1206"
                          << "fuse";
    QTest::newRow("clamp") << "D1"
                           << "TVS 15V"
                           << "SMB"
                           << "clamp diode";
    QTest::newRow("diode") << "D2"
                           << "SCHOTTKY"
                           << "SMA"
                           << "diode";
    QTest::newRow("switch") << "Q3"
                            << "NCH"
                            << "PWR"
                            << "mosfet";
    QTest::newRow("processor") << "U1"
                               << "CPU SOC"
                               << "BGA"
                               << "processor";
    QTest::newRow("controller") << "U2"
                                << "BUCK-CTRL"
                                << "QFN"
                                << "regulator";
    QTest::newRow("chip") << "U9"
                          << "CAN"
                          << "SOIC-8"
                          << "ic";
    QTest::newRow("plug") << "J4"
                          << "USB"
                          << ""
                          << "connector";
    QTest::newRow("test point") << "TP3"
                                << ""
                                << ""
                                << "test point";
    QTest::newRow("unknown") << "??"
                             << ""
                             << ""
                             << "other";
}

void TestGuesses::classes() {
    QFETCH(QString, designator);
    QFETCH(QString, value);
    QFETCH(QString, package);
    QFETCH(QString, expected);
    const PartClass guess =
        guessPartClass(designator.toStdString(), value.toStdString(), package.toStdString());
    QCOMPARE(QString::fromStdString(std::string(wordOf(guess))), expected);
    QCOMPARE(*partClassFromWord(expected.toStdString()), guess);
}

void TestGuesses::nominalVoltages_data() {
    QTest::addColumn<QString>("net");
    QTest::addColumn<double>("volts"); // 0: none
    QTest::newRow("+3V3") << "+3V3" << 3.3;
    QTest::newRow("1V05") << "+1V05_CORE" << 1.05;
    QTest::newRow("12V") << "VMAIN_12V" << 12.0;
    QTest::newRow("P5V0") << "P5V0" << 5.0;
    QTest::newRow("point") << "VDD_1.8V" << 1.8;
    QTest::newRow("20V") << "VBUS_20V" << 20.0;
    QTest::newRow("negative") << "-12V" << 0.0;
    QTest::newRow("signal") << "I2C_SDA" << 0.0;
    QTest::newRow("number") << "NET0123" << 0.0;
}

void TestGuesses::nominalVoltages() {
    QFETCH(QString, net);
    QFETCH(double, volts);
    const auto guess = nominalFromName(net.toStdString());
    QCOMPARE(guess ? guess->value : 0.0, volts);
}

void TestGuesses::grounds() {
    for (const char* name : {"GND", "AGND", "gnd", "PGND", "SYS_GND", "VSS", "0V", "GND_CHASSIS"})
        QVERIFY2(isGroundName(name), name);
    for (const char* name : {"+3V3", "BACKGND", "SW", "", "N/C", "GROWING"})
        QVERIFY2(!isGroundName(name), name);
}

void TestGuesses::caseSizes() {
    // EIA inch codes and their metric names (EIA-PDP-100): 0402 = 1005, 0603 = 1608, 1206 = 3216.
    QCOMPARE(caseSizeFromPackage("C_0402")->length_mm, 1.0);
    QCOMPARE(caseSizeFromPackage("0603")->width_mm, 0.8);
    QCOMPARE(caseSizeFromPackage("RES-1206")->length_mm, 3.2);
    QCOMPARE(caseSizeFromPackage("01005")->length_mm, 0.4);
    QVERIFY(!caseSizeFromPackage("QFN-16"));
}

void TestGuesses::placesAreFound() {
    const Board board = testing::smallBoard();
    QCOMPARE(board.placeOf(*board.findPad("c10.2")), std::string("C10.2"));
    QVERIFY(!board.findPad("C10.3"));
    QVERIFY(!board.findPad("C999"));
    QCOMPARE(board.findNet("+3v3"), board.findNet("+3V3"));
    QCOMPARE(board.box().width_mm(), 60.0);
    QCOMPARE(board.padsOf(board.findNet("SW")).size(), std::size_t(4));
}
