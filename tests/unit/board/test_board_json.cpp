#include "board/board_files.h"
#include "board/board_json.h"
#include "support/boards.h"
#include "unit/board/test_board.h"

#include <QDir>
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

// A working voltage that the file does not tell is told by the name, as by the files of others; null says
// that nobody knows it.
void TestBoardJson::namesTellVoltages() {
    const auto board = boardFromJson(
        R"({"format":"ustor-board/1","nets":[{"name":"+5VSB"},{"name":"+3V3","nominal_volts":null},
            {"name":"12V","nominal_volts":9}],"parts":[]})",
        "b.board.json");
    QVERIFY2(board.ok(), board.ok() ? "" : board.error().text().c_str());
    const auto& nets = board.value().nets;
    QVERIFY(nets[0].nominal && nets[0].nominal->value == 5);
    QVERIFY(!nets[1].nominal);
    QVERIFY(nets[2].nominal && nets[2].nominal->value == 9);
    const auto back = boardFromJson(boardToJson(board.value()), "b.board.json");
    QVERIFY(back.ok() && !back.value().nets[1].nominal);
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

// A board's file that names a file elsewhere must not carry that into a case.
void TestBoardJson::photosCarryNoOtherFile() {
    const QTemporaryDir folder;
    const auto put = [&](const QString& name, const QByteArray& content) {
        QFile file(folder.filePath(name));
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write(content);
    };
    QVERIFY(QDir(folder.path()).mkdir("board"));
    put("secret.txt", "secret");
    put("secret.png", "\x89PNG");
    put("board/words.png", "not a picture");
    put("board/good.png", QByteArray("\x89PNG\r\n"));
    QVERIFY(QFile::link(folder.filePath("secret.png"), folder.filePath("board/link.png")));
    const auto photo = [](const QString& file) {
        return QString(R"({"side":"top","file":"%1","low_mm":[0,0],"size_mm":[9,9],)"
                       R"("corners_px":[[0,0],[9,0],[9,9],[0,9]]})")
            .arg(file);
    };
    QStringList photos;
    for (const QString& file :
         {folder.filePath("secret.png"), QString("../secret.txt"), QString("../secret.png"),
          QString("words.png"), QString("link.png"), QString("gone.png"), QString("good.png")})
        photos << photo(file);
    put("board/b.board.json", QString(R"({"format":"ustor-board/1","nets":[],"parts":[],"photos":[%1]})")
                                  .arg(photos.join(','))
                                  .toUtf8());
    const auto read = readBoardFiles({folder.filePath("board/b.board.json").toStdString()});
    QVERIFY2(read.ok(), read.ok() ? "" : read.error().text().c_str());
    QCOMPARE(read.value().photos.size(), std::size_t(1));
    QVERIFY(read.value().photos.front().file.ends_with("good.png"));
    QCOMPARE(read.value().warnings.size(), std::size_t(6));
}

void TestBoardJson::numbersThatNoBoardHas() {
    const QTemporaryDir folder;
    const auto read = [&](const QByteArray& json) {
        QFile file(folder.filePath("b.board.json"));
        if (!file.open(QIODevice::WriteOnly)) return Result<Board>(Error{verbatim("not written"), "", {}});
        file.write(json);
        file.close();
        return readBoardFiles({file.fileName().toStdString()});
    };
    const auto thin = read(R"({"format":"ustor-board/1","thickness_mm":-1,"nets":[],"parts":[]})");
    QVERIFY(thin.ok());
    QCOMPARE(thin.value().thickness_mm, 1.6);
    QCOMPARE(thin.value().warnings.size(), std::size_t(1));
    const auto far = read(
        R"({"format":"ustor-board/1","nets":[],"parts":[{"designator":"C1","centre_mm":[2e33,0],"pads":[]}]})");
    QVERIFY(!far.ok());
    QVERIFY(far.error().text().find("C1 lies more than ten metres") != std::string::npos);
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
