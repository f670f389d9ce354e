#include "board/board_files.h"
#include "board/ipcd356_reader.h"
#include "board/ipcd356_writer.h"
#include "board/pin_list.h"
#include "support/boards.h"
#include "unit/board/test_board.h"

#include <QTemporaryDir>
#include <QTest>
#include <algorithm>
#include <cmath>

using namespace ustor;

namespace {

/// Everything that both formats hold: pads by place with net, side and place to a micrometre.
QString padsOf(const Board& board) {
    QStringList lines;
    for (const Part& part : board.parts)
        for (const Pad& pad : part.pads)
            lines << QString("%1.%2 %3 %4 %5 %6")
                         .arg(QString::fromStdString(part.designator), QString::fromStdString(pad.pin),
                              pad.net < 0 ? QString() : QString::fromStdString(board.nets[pad.net].name))
                         .arg(std::round(pad.at.x_mm * 1000) + 0.0)
                         .arg(std::round(pad.at.y_mm * 1000) + 0.0)
                         .arg(pad.through ? "both" : QString::fromStdString(std::string(wordOf(pad.side))));
    lines.sort();
    return lines.join('\n');
}

} // namespace

void TestLists::pinListDialects_data() {
    QTest::addColumn<QString>("text");
    QTest::newRow("comma") << "part,pin,net,x,y,side\nC1,1,+3V3,25.4,-12.7,bottom\nJ1,A2,GND,0,1,both\n";
    QTest::newRow("other order, mil, tab")
        << "Net\tRefDes\tPad\tY (mil)\tX "
           "(mil)\tLayer\n+3V3\tC1\t1\t-500\t1000\tB\nGND\tJ1\tA2\t39.37007874\t0\tall\n";
    QTest::newRow("semicolon, decimal comma, quoted") << "\"Part\";\"Pin\";\"Net\";\"X\";\"Y\";\"Side\"\n"
                                                         "\"C1\";\"1\";\"+3V3\";25,4;-12,7;Bottom\n"
                                                         "\"J1\";\"A2\";\"GND\";0,0;1,0;both\n";
}

void TestLists::pinListDialects() {
    QFETCH(QString, text);
    QVERIFY(looksLikePinList(text.toStdString()));
    const auto board = readPinList(text.toStdString(), "pins.csv");
    QVERIFY2(board.ok(), board.ok() ? "" : board.error().text().c_str());
    QCOMPARE(padsOf(board.value()), QString("C1.1 +3V3 25400 -12700 bottom\nJ1.A2 GND 0 1000 both"));
    QVERIFY(board.value().nets[board.value().findNet("GND")].ground);
    QCOMPARE(board.value().nets[board.value().findNet("+3V3")].nominal->value, 3.3);
    QVERIFY(board.value().warnings.empty());
}

void TestLists::brokenRowsAreToldAndTheRestKept() {
    const auto board = readPinList("part,pin,net,x,y,side\nC1,1,A,1,2,top\nC1,,A,1,2,top\nC1,3,A,one,2,top\n"
                                   "C1,4,,1,2,sideways\n",
                                   "pins.csv");
    QVERIFY(board.ok());
    QCOMPARE(board.value().parts.size(), std::size_t(1));
    QCOMPARE(board.value().parts[0].pads.size(), std::size_t(2));
    QCOMPARE(board.value().parts[0].pads[1].net, -1);
    QCOMPARE(board.value().warnings.size(), std::size_t(3));
    QCOMPARE(board.value().warnings[0].where, std::string("pins.csv:3"));
    QVERIFY(!readPinList("part,pin,net,x,y\n", "empty.csv").ok());
    QVERIFY(!looksLikePinList("Designator,X,Y,Side\nC1,1,2,top\n"));
}

void TestLists::writtenListsComeBack_data() {
    QTest::addColumn<QString>("ending");
    QTest::newRow("pin list") << "csv";
    QTest::newRow("netlist") << "356";
    QTest::newRow("board") << "board.json";
}

void TestLists::writtenListsComeBack() {
    QFETCH(QString, ending);
    const QTemporaryDir folder;
    for (const Board& board : {testing::smallBoard(), testing::demoBoard("chart-plotter")}) {
        const std::filesystem::path file = folder.filePath("written." + ending).toStdString();
        std::vector<Message> lost;
        QVERIFY(exportBoard(board, file, lost).ok());
        const auto back = readBoardFiles({file});
        QVERIFY2(back.ok(), back.ok() ? "" : back.error().text().c_str());
        QVERIFY(back.value().warnings.empty());
        QCOMPARE(padsOf(back.value()), padsOf(board));
        if (ending != "csv") QCOMPARE(back.value().vias.size(), board.vias.size());
        if (ending == "356") QCOMPARE(back.value().outline.size(), board.outline.size());
    }
    std::vector<Message> lost;
    QVERIFY(!exportBoard(testing::smallBoard(), folder.filePath("board.odd").toStdString(), lost).ok());
}

void TestLists::whatANetlistCannotHoldIsTold() {
    Board board = testing::smallBoard();
    board.nets[0].name = "A_NAME_WITH_MORE_THAN_FOURTEEN_LETTERS";
    board.nets[1].name = "NNAME1";
    board.parts[0].designator = "CONNECTOR1";
    board.parts[1].pads[0].pin = "ANODE";
    board.parts[2].pads[0].at = {1500, 0};
    std::vector<Message> lost;
    const std::string text = writeIpcD356(board, lost);
    QCOMPARE(lost.size(), std::size_t(3));
    // No line may pass column 80 (IPC-D-356A, from memory: records are cards of 80 columns).
    for (const QString& line : QString::fromStdString(text).split('\n'))
        QVERIFY2(line.size() <= 80 || line.startsWith("389"), qPrintable(line));
    const auto back = readIpcD356(text, "back.356");
    QVERIFY(back.ok());
    QVERIFY(back.value().findNet("A_NAME_WITH_MORE_THAN_FOURTEEN_LETTERS") >= 0);
    QVERIFY(back.value().findNet("NNAME1") >= 0);
}
