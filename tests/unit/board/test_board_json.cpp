#include "board/board_files.h"
#include "board/board_json.h"
#include "support/boards.h"
#include "unit/board/test_board.h"

#include <QFile>
#include <QTemporaryDir>
#include <QTest>

using namespace ustor;

void TestBoardJson::comesBackAsItWent() {
    for (const Board& board : {testing::smallBoard(), testing::demoBoard("chart-plotter"),
                               testing::demoBoard("greenhouse-controller")}) {
        const std::string text = boardToJson(board);
        const auto back = boardFromJson(text, "b.board.json");
        QVERIFY2(back.ok(), back.ok() ? "" : back.error().text().c_str());
        QCOMPARE(boardToJson(back.value()), text);
        QCOMPARE(back.value().parts.size(), board.parts.size());
        QCOMPARE(back.value().vias.size(), board.vias.size());
        QCOMPARE(back.value().nets.size(), board.nets.size());
    }
}

void TestBoardJson::errorsNameThePlace_data() {
    QTest::addColumn<QString>("text");
    QTest::addColumn<QString>("says");
    QTest::newRow("not json") << "{"
                              << "cannot be read";
    QTest::newRow("other format") << R"({"format":"else/1"})"
                                  << "not a board";
    QTest::newRow("newer") << R"({"format":"ustor-board/2"})"
                           << "newer version";
    QTest::newRow("net missing")
        << R"({"format":"ustor-board/1","nets":[],"parts":[{"designator":"C1","centre_mm":[0,0],"pads":[{"pin":"1","at_mm":[0,0],"net":"A"}]}]})"
        << "net 'A'";
    QTest::newRow("bad side")
        << R"({"format":"ustor-board/1","nets":[],"parts":[{"designator":"C1","centre_mm":[0,0],"side":"left","pads":[]}]})"
        << "neither top nor bottom";
    QTest::newRow("bad point")
        << R"({"format":"ustor-board/1","nets":[],"parts":[{"designator":"C1","centre_mm":[0],"pads":[]}]})"
        << "two numbers";
    QTest::newRow("wrong kind") << R"({"format":"ustor-board/1","nets":[{"name":5}],"parts":[]})"
                                << "cannot be read";
}

void TestBoardJson::errorsNameThePlace() {
    QFETCH(QString, text);
    QFETCH(QString, says);
    const auto board = boardFromJson(text.toStdString(), "x.board.json");
    QVERIFY(!board.ok());
    const QString error = QString::fromStdString(board.error().text());
    QVERIFY2(error.contains(says) && error.contains("x.board.json"), qPrintable(error));
}

void TestBoardJson::filesAreToldByTheirContent() {
    QTemporaryDir folder;
    const std::string base = folder.path().toStdString();
    // Named against their content on purpose.
    QFile::copy(qEnvironmentVariable("USTOR_DEMO_BOARDS") + "/greenhouse-controller.356",
                folder.filePath("a.csv"));
    QFile::copy(qEnvironmentVariable("USTOR_DEMO_BOARDS") + "/greenhouse-controller.centroid.csv",
                folder.filePath("b.txt"));
    const auto joined = readBoardFiles({base + "/a.csv", base + "/b.txt"});
    QVERIFY2(joined.ok(), joined.ok() ? "" : joined.error().text().c_str());
    QVERIFY(joined.value().findPart("L1") >= 0);
    QCOMPARE(joined.value().parts[joined.value().findPart("L1")].partClass, PartClass::Inductor);
    QVERIFY(!readBoardFiles({}).ok());
    QVERIFY(!readBoardFiles({base + "/missing.356"}).ok());
    QVERIFY(!readBoardFiles({base + "/a.csv", base + "/a.csv"}).ok());
}

void TestBoardJson::writingNeverLeavesHalfAFile() {
    QTemporaryDir folder;
    const std::string file = folder.filePath("x.board.json").toStdString();
    QVERIFY(writeBoardFile(testing::smallBoard(), file).ok());
    QVERIFY(readBoardFiles({file}).ok());
    const auto refused =
        writeBoardFile(testing::smallBoard(), folder.filePath("no/such/folder.board.json").toStdString());
    QVERIFY(!refused.ok());
    QVERIFY(!refused.error().kept.empty());
}
