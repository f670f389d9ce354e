#include "board/board_join.h"
#include "board/centroid_reader.h"
#include "support/boards.h"
#include "unit/board/test_board.h"

#include <QTest>
#include <cmath>

using namespace ustor;

void TestCentroids::dialects_data() {
    QTest::addColumn<QString>("text");
    const char* mm =
        "Designator,Value,Package,X (mm),Y (mm),Rotation,Side\nC1,100n,0402,25.4,-12.7,90,bottom\n";
    QTest::newRow("comma, mm") << mm;
    QTest::newRow("semicolon, decimal comma")
        << "Ref;Val;Package;PosX;PosY;Rot;Side\nC1;100n;0402;25,4;-12,7;90;bottom\n";
    QTest::newRow("tab, mil") << "Designator\tComment\tFootprint\tMid X (mil)\tMid Y "
                                 "(mil)\tRotation\tLayer\nC1\t100n\t0402\t1000\t-500\t90\tBottomLayer\n";
    QTest::newRow("suffixes") << "Designator,Value,Package,X,Y,Rotation,TB\n\"C1\",\"100n\",\"0402\","
                                 "\"1000mil\",\"-500mil\",90,B\n";
    QTest::newRow("inch header")
        << "RefDes,Value,Pattern,X (inch),Y (inch),Angle,Side\nC1,100n,0402,1,-0.5,90,back\n";
    QTest::newRow("header as a comment, unit below it")
        << "# Version 1.0\n# RefDes, Description, Value, X, Y, rotation, top/bottom\n# X,Y in mil.  rotation "
           "in degrees.\nC1,\"0402\",\"100n\",1000,-500,90,bottom\n";
    QTest::newRow("aligned by blanks, marked header")
        << "### Positions, written by a program ###\n## Unit = mm, Angle = deg.\n## Side : All\n"
           "# Ref     Val       Package        PosX       PosY       Rot  Side\n"
           "C1        100n      0402        25.4000   -12.7000   90.0000  bottom\n## End\n";
    QTest::newRow("aligned by blanks, decimal comma")
        << "Ref     Val    Package   PosX     PosY     Rot  Side\n"
           "C1      100n   0402   25,4   -12,7   90  bottom\n";
    QTest::newRow("all cells quoted, lines before the header")
        << "\"Pick and place\"\n\"Date\",\"today\"\n\n"
           "\"Designator\",\"Comment\",\"Layer\",\"Footprint\",\"Center-X(mm)\",\"Center-Y(mm)\","
           "\"Rotation\"\n"
           "\"C1\",\"100n\",\"BottomLayer\",\"0402\",\"25.4\",\"-12.7\",\"90\"\n";
    QTest::newRow("unit behind each number")
        << "Designator,Value,Package,Mid X,Mid Y,Rotation,Layer\nC1,100n,0402,25.4mm,-12.7mm,90.00,B\n";
    QTest::newRow("line ends of another system, byte order mark")
        << "\xef\xbb\xbfRef,Val,Package,PosX,PosY,Rot,Side\r\n\"C1\",\"100n\",\"0402\",25.4,-12.7,90,"
           "bottom\r\n";
}

void TestCentroids::dialects() {
    QFETCH(QString, text);
    const auto list = readCentroids(text.toStdString(), "list.csv");
    QVERIFY2(list.ok(), list.ok() ? "" : list.error().text().c_str());
    QCOMPARE(list.value().rows.size(), std::size_t(1));
    const Centroid& row = list.value().rows[0];
    QCOMPARE(row.designator, std::string("C1"));
    QCOMPARE(row.value, std::string("100n"));
    QCOMPARE(row.package, std::string("0402"));
    QVERIFY(std::fabs(row.at.x_mm - 25.4) < 1e-9);
    QVERIFY(std::fabs(row.at.y_mm + 12.7) < 1e-9);
    QCOMPARE(row.rotation_deg, 90.0);
    QCOMPARE(row.side, Side::Bottom);
    QVERIFY(list.value().warnings.empty());
}

void TestCentroids::rowsThatCannotBeRead() {
    const auto list = readCentroids(
        "Designator,X,Y,Side\nC1,1,2,top\nC2,one,2,top\n,3,4,top\nC4,5,6,sideways\n", "rows.csv");
    QVERIFY(list.ok());
    QCOMPARE(list.value().rows.size(), std::size_t(2));
    QCOMPARE(list.value().warnings.size(), std::size_t(3));
    QCOMPARE(list.value().warnings[0].where, std::string("rows.csv:3"));
    QVERIFY(!readCentroids("a,b,c\n1,2,3\n", "none.csv").ok());
    QVERIFY(!readCentroids("Designator,X,Y\n", "empty.csv").ok());
    QVERIFY(!readCentroids("", "nothing.csv").ok());
}

void TestCentroids::otherOriginIsBroughtTogether() {
    Board board = testing::smallBoard();
    CentroidList list;
    for (const Part& part : board.parts)
        list.rows.push_back(
            {0, part.designator, "v", "p", {part.centre.x_mm + 100, part.centre.y_mm - 30}, 0, Side::Top});
    const Board before = board;
    joinCentroids(board, list);
    for (std::size_t i = 0; i < board.parts.size(); ++i)
        if (before.parts[i].pads.size() == 2)
            QVERIFY(distance_mm(board.parts[i].centre, before.parts[i].centre) < 0.01);
    QVERIFY(!board.warnings.empty());
}

void TestCentroids::mirroredBottomIsBroughtTogether() {
    Board board = testing::smallBoard();
    for (Part& part : board.parts) {
        part.side = Side::Bottom;
        for (Pad& pad : part.pads)
            pad.side = Side::Bottom;
    }
    CentroidList list;
    for (const Part& part : board.parts)
        list.rows.push_back(
            {0, part.designator, "v", "p", {60 - part.centre.x_mm, part.centre.y_mm}, 0, Side::Bottom});
    const Board before = board;
    joinCentroids(board, list);
    for (std::size_t i = 0; i < board.parts.size(); ++i)
        if (before.parts[i].pads.size() == 2)
            QVERIFY(distance_mm(board.parts[i].centre, before.parts[i].centre) < 0.01);
}

void TestCentroids::partsWithoutPadsAreAdded() {
    Board board = testing::smallBoard();
    const std::size_t before = board.parts.size();
    CentroidList list;
    list.rows.push_back({0, "C99", "100n", "0402", {5, 5}, 0, Side::Top});
    joinCentroids(board, list);
    completeParts(board);
    QCOMPARE(board.parts.size(), before + 1);
    QCOMPARE(board.parts.back().partClass, PartClass::CeramicCapacitor);
    QCOMPARE(board.parts.back().width_mm, 1.0); // 0402 is metric 1005
}
