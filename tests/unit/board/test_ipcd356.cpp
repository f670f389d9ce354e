#include "base/random.h"
#include "board/ipcd356_reader.h"
#include "unit/board/test_board.h"

#include <QTest>
#include <cmath>

using namespace ustor;

namespace {

/// Columns as IPC-D-356A counts them, from memory of the standard: code 1-3, net 4-17, part 21-26, pin 28-31,
/// hole 33-38, access 39-41, X 42-49, Y 50-57, width 58-62, height 63-67.
const char* two = "P  JOB   two pads\n"
                  "P  UNITS CUST 1\n"
                  "327GND              C1    -1          A01X+001000Y-002000X0500Y0600R000 S0\n"
                  "317+3V3             J1    -2    D1000PA00X+012345Y+002000X1600Y0000R000 S0\n"
                  "999\n";

} // namespace

void TestIpcD356::columnsOfTheStandard() {
    const auto board = readIpcD356(two, "two.356");
    QVERIFY(board.ok());
    QCOMPARE(board.value().name, std::string("two pads"));
    QCOMPARE(board.value().parts.size(), std::size_t(2));
    const Pad& surface = board.value().parts[0].pads[0];
    QCOMPARE(surface.at, (BoardPoint{1.0, -2.0}));
    QCOMPARE(surface.width_mm, 0.5);
    QCOMPARE(surface.height_mm, 0.6);
    QVERIFY(!surface.through);
    QVERIFY(board.value().nets[surface.net].ground);
    const Pad& hole = board.value().parts[1].pads[0];
    QCOMPARE(hole.pin, std::string("2"));
    QVERIFY(hole.through);
    QCOMPARE(hole.hole_mm, 1.0);
    QCOMPARE(hole.height_mm, 1.6); // a round pad gives its size once
    QCOMPARE(board.value().nets[hole.net].nominal->value, 3.3);
    QVERIFY(board.value().warnings.empty());
}

void TestIpcD356::unitsAndSigns() {
    // CUST 0 counts in 0.0001 inch: 10000 is one inch, 25.4 mm.
    const auto board = readIpcD356(
        "P  UNITS CUST 0\n327A                C1    -1          A02X+010000Y-005000X0100Y0100R000 S0\n999\n",
        "inch.356");
    QVERIFY(board.ok());
    const Pad& pad = board.value().parts[0].pads[0];
    QVERIFY(std::fabs(pad.at.x_mm - 25.4) < 1e-9);
    QVERIFY(std::fabs(pad.at.y_mm + 12.7) < 1e-9);
    QCOMPARE(pad.side, Side::Bottom);
}

void TestIpcD356::longNamesViasAndSkippedRecords() {
    const auto board =
        readIpcD356("P  NNAME1  A_NET_NAME_OF_MORE_THAN_FOURTEEN\n"
                    "327NNAME1           C1    -1          A01X+010000Y+005000X0100Y0100R000 S0\n"
                    "317NNAME1           VIA   -    MD0120PA00X+020000Y+005000X0240Y0000R000 S3\n"
                    "017                                   A00X+020000Y+005000\n"
                    "367                                    D0320UA00X+000000Y+000000\n"
                    "378 whatever a conductor is\n999\n",
                    "long.356");
    QVERIFY(board.ok());
    QCOMPARE(board.value().nets.size(), std::size_t(1));
    QCOMPARE(board.value().nets[0].name, std::string("A_NET_NAME_OF_MORE_THAN_FOURTEEN"));
    QCOMPARE(board.value().vias.size(), std::size_t(1));
    QCOMPARE(board.value().vias[0].net, 0);
    QVERIFY(board.value().warnings.empty());
}

void TestIpcD356::outlineRepeatsWhatIsLeftOut() {
    const auto board =
        readIpcD356(std::string(two).substr(0, std::string(two).size() - 4) +
                        "389BOARD_EDGE      X+000000Y+000000 X+050000 Y+040000 X+000000\n999\n",
                    "edge.356");
    QVERIFY(board.ok());
    const std::vector<BoardPoint> expected{{0, 0}, {50, 0}, {50, 40}, {0, 40}};
    QCOMPARE(board.value().outline, expected);
}

void TestIpcD356::brokenLinesAreToldAndTheRestKept() {
    std::string text = two;
    text.insert(text.find("317"),
                "327NET              C2    -1          A01X+00x000Y-002000X0500Y0600R000 S0\n666 strange\n");
    text.resize(text.size() - 4); // no 999
    const auto board = readIpcD356(text, "broken.356");
    QVERIFY(board.ok());
    QCOMPARE(board.value().parts.size(), std::size_t(2));
    QCOMPARE(board.value().warnings.size(), std::size_t(3));
    QCOMPARE(board.value().warnings[0].where, std::string("broken.356:4"));
    QVERIFY(board.value().warnings[2].what.text().find("999") != std::string::npos);
}

void TestIpcD356::nothingReadableIsAnError() {
    for (const char* text : {"", "hello\nworld\n", "999\n", "C only a comment\n"}) {
        const auto board = readIpcD356(text, "none.356");
        QVERIFY(!board.ok());
        QVERIFY(board.error().text().find("none.356") != std::string::npos);
    }
}

void TestIpcD356::hostileInputNeverCrashes() {
    // Every prefix, and a thousand copies with bytes turned: an answer each time, and each complaint says
    // where.
    const std::string good = two;
    for (std::size_t n = 0; n < good.size(); ++n)
        static_cast<void>(readIpcD356(good.substr(0, n), "cut"));
    Random random(3);
    int complaints = 0;
    for (int i = 0; i < 1000; ++i) {
        std::string text = good;
        for (int k = 0; k < 6; ++k)
            text[static_cast<std::size_t>(random.below(static_cast<int>(text.size())))] =
                static_cast<char>(random.below(256));
        const auto board = readIpcD356(text, "turned");
        if (!board) {
            QVERIFY(board.error().where.find("turned") != std::string::npos);
            QVERIFY(!board.error().what.empty());
            ++complaints;
            continue;
        }
        for (const BoardWarning& warning : board.value().warnings) {
            QVERIFY2(warning.where.find("turned") != std::string::npos, warning.where.c_str());
            QVERIFY(!warning.what.empty());
        }
        complaints += !board.value().warnings.empty();
    }
    QVERIFY2(complaints > 500,
             qPrintable(QString::number(complaints))); // six wrong bytes are hardly ever right
}
