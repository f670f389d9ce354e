#include "board/board_files.h"
#include "board/ipc2581_reader.h"
#include "support/ipc2581_text.h"
#include "unit/board/test_board.h"

#include <QTest>
#include <algorithm>
#include <cmath>
#include <numbers>

using namespace ustor;
using namespace ustor::testing;

namespace {

/// The frame of a file around what one layer draws; element names after the published IPC-2581 standard, from
/// memory.
std::string fileWith(const std::string& features, const std::string& content = "") {
    return R"(<?xml version="1.0"?>
<IPC-2581 revision="C" xmlns="http://webstds.ipc.org/2581"><Content roleRef="Owner"><StepRef name="s"/>)" +
           content + R"(</Content><Ecad name="plate"><CadHeader units="MILLIMETER"/><CadData>
<Layer name="TOP" layerFunction="CONDUCTOR" side="TOP" polarity="POSITIVE"/>
<Layer name="BOT" layerFunction="CONDUCTOR" side="BOTTOM" polarity="POSITIVE"/>
<Step name="s"><Profile><Polygon><PolyBegin x="0" y="0"/><PolyStepSegment x="20" y="0"/><PolyStepSegment x="20" y="10"/>
<PolyStepSegment x="0" y="10"/><PolyStepSegment x="0" y="0"/></Polygon></Profile>
<LayerFeature layerRef="TOP">)" +
           features + "</LayerFeature></Step></CadData></Ecad></IPC-2581>";
}

Board boardWith(const std::string& features, const std::string& content = "") {
    auto read = readIpc2581(fileWith(features, content), "plate.xml");
    if (!read) qFatal("%s", read.error().text().c_str());
    return read.value();
}

std::string placed(const std::string& shape) {
    return "<Set net=\"V\"><Features><Location x=\"5\" y=\"5\"/>" + shape + "</Features></Set>";
}

/// Eight parts on both sides and in several turns, with copper, vias and a through hole.
Board turnedParts() {
    Board board = manyParts(8, 6);
    // Pins lie unevenly about the middle, so that each turn and mirror shows.
    constexpr double turns_deg[] = {0, 90, 180, 270, 90, 0, 270, 180};
    for (std::size_t i = 0; i < board.parts.size(); ++i) {
        Part& part = board.parts[i];
        part.side = i < 4 ? Side::Top : Side::Bottom;
        part.package = "P";
        part.rotation_deg = turns_deg[i];
        const double a = part.rotation_deg * std::numbers::pi / 180;
        for (std::size_t k = 0; k < part.pads.size(); ++k) {
            const double own = part.side == Side::Bottom ? -1 : 1;
            const double x = own * (0.2 * static_cast<double>(k) - 0.45), y = k % 2 == 0 ? 0.5 : -0.35;
            part.pads[k].at = {part.centre.x_mm + x * std::cos(a) - y * std::sin(a),
                               part.centre.y_mm + x * std::sin(a) + y * std::cos(a)};
            const bool across = turns_deg[i] == 90 || turns_deg[i] == 270;
            part.pads[k].width_mm = across ? 0.25 : 0.15;
            part.pads[k].height_mm = across ? 0.15 : 0.25;
            part.pads[k].side = part.side;
        }
    }
    board.vias.clear();
    board.vias.push_back({{2, 2}, 0, 0.3});
    return board;
}

} // namespace

void TestIpc2581::shapesCoverWhatTheyShould_data() {
    QTest::addColumn<QString>("shape");
    QTest::addColumn<double>("area");
    constexpr double pi = std::numbers::pi;
    QTest::newRow("circle") << R"(<Circle diameter="2"/>)" << pi;
    QTest::newRow("box") << R"(<RectCenter width="2" height="3"/>)" << 6.0;
    QTest::newRow("box by corners")
        << R"(<RectCorner lowerLeftX="0" lowerLeftY="1" upperRightX="2" upperRightY="2"/>)" << 2.0;
    QTest::newRow("rounded box") << R"(<RectRound width="2" height="3" radius="0.5"/>)"
                                 << 6 - (4 - pi) * 0.25;
    QTest::newRow("box with two cut corners")
        << R"(<RectCham width="2" height="3" chamfer="0.5" upperLeft="false" lowerLeft="false"/>)"
        << 6 - 2 * 0.125;
    QTest::newRow("oval") << R"(<Oval width="3" height="1"/>)" << 2 + pi / 4;
    QTest::newRow("ellipse") << R"(<Ellipse width="4" height="2"/>)" << 2 * pi;
    QTest::newRow("octagon") << R"(<Octagon length="2"/>)" << 8 * (std::numbers::sqrt2 - 1);
    QTest::newRow("diamond") << R"(<Diamond width="2" height="3"/>)" << 3.0;
    QTest::newRow("triangle") << R"(<Triangle base="2" height="3"/>)" << 3.0;
    QTest::newRow("ring") << R"(<Donut shape="ROUND" outerDiameter="3" innerDiameter="1"/>)" << 2 * pi;
    QTest::newRow("trace")
        << R"(<Line startX="0" startY="0" endX="3" endY="0"><LineDesc lineEnd="ROUND" lineWidth="1"/></Line>)"
        << 3 + pi / 4;
    QTest::newRow("quarter arc")
        << R"(<Arc startX="3" startY="0" endX="0" endY="3" centerX="0" centerY="0" clockwise="false"><LineDesc lineEnd="ROUND" lineWidth="0.5"/></Arc>)"
        << 0.5 * 1.5 * pi + pi / 16;
    QTest::newRow("trace round a corner")
        << R"(<Polyline><PolyBegin x="0" y="0"/><PolyStepSegment x="2" y="0"/><PolyStepSegment x="2" y="2"/><LineDesc lineEnd="ROUND" lineWidth="1"/></Polyline>)"
        << 4 - 0.25 + pi / 4 + pi / 16;
    QTest::newRow("contour with a cutout")
        << R"(<Contour><Polygon><PolyBegin x="0" y="0"/><PolyStepSegment x="3" y="0"/><PolyStepSegment x="3" y="3"/><PolyStepSegment x="0" y="3"/><PolyStepSegment x="0" y="0"/></Polygon><Cutout><PolyBegin x="1" y="1"/><PolyStepCurve x="1" y="1" centerX="1.5" centerY="1" clockwise="true"/></Cutout></Contour>)"
        << 9 - pi / 4;
}

/// Against the areas of plane geometry.
void TestIpc2581::shapesCoverWhatTheyShould() {
    QFETCH(QString, shape);
    QFETCH(double, area);
    const Board board = boardWith(placed(shape.toStdString()));
    QVERIFY2(board.warnings.empty(),
             board.warnings.empty() ? "" : board.warnings.front().what.text().c_str());
    QCOMPARE(board.copper.size(), std::size_t(2));
    const double found = area_mm2(board.copper[0]);
    QVERIFY2(std::fabs(found / area - 1) < 3e-3, qPrintable(QString("%1 for %2").arg(found).arg(area)));
    QCOMPARE(board.nets[board.copper[0].pieces[0].net].name, std::string("V"));
}

void TestIpc2581::shapesByReferenceAndPolarity() {
    const std::string content =
        R"(<DictionaryStandard units="INCH"><EntryStandard id="A"><Circle diameter="0.1"/></EntryStandard></DictionaryStandard>
<DictionaryLineDesc units="MICRON"><EntryLineDesc id="L"><LineDesc lineEnd="ROUND" lineWidth="500"/></EntryLineDesc></DictionaryLineDesc>
<DictionaryUser units="MILLIMETER"><EntryUser id="U"><UserSpecial><Polygon><PolyBegin x="0" y="0"/><PolyStepSegment x="0" y="1"/><PolyStepSegment x="1" y="1"/><PolyStepSegment x="1" y="0"/></Polygon></UserSpecial></EntryUser>
<EntryUser id="LOOP"><UserSpecial><UserPrimitiveRef id="LOOP"/></UserSpecial></EntryUser></DictionaryUser>)";
    // In the dictionary's inch, in the file's own way round (clockwise), and by a pen of the dictionary.
    Board board = boardWith(
        placed(R"(<StandardPrimitiveRef id="A"/>)") +
            R"(<Set net="V"><Features><Xform rotation="90" mirror="true" scale="2"/><Location x="12" y="2"/><UserPrimitiveRef id="U"/></Features></Set>)"
            R"(<Set net="V"><Features><Line startX="1" startY="9" endX="4" endY="9"><LineDescRef id="L"/></Line></Features></Set>)",
        content);
    const double pi = std::numbers::pi;
    const double want = 2.54 * 2.54 * pi / 4 + 4 + 3 * 0.5 + pi / 16;
    QVERIFY(std::fabs(area_mm2(board.copper[0]) / want - 1) < 2e-3);
    // Mirrored, then a quarter turn: the unit square above x goes to x from 10 to 12 and y from 0 to 2.
    const CopperPiece& square = board.copper[0].pieces[1];
    QVERIFY(contains(square, {11, 1}));
    QVERIFY(!contains(square, {13, 3}));
    // A negative set takes away what was drawn before it, not after.
    board = boardWith(
        placed(R"(<RectCenter width="4" height="4"/>)") +
        R"(<Set net="" polarity="NEGATIVE"><Features><Location x="5" y="5"/><RectCenter width="2" height="2"/></Features></Set>)" +
        placed(R"(<RectCenter width="1" height="1"/>)"));
    QVERIFY(std::fabs(area_mm2(board.copper[0]) - 13) < 1e-6);
    // A shape that refers to itself ends with a word about it.
    board = boardWith(placed(R"(<UserPrimitiveRef id="LOOP"/>)"), content);
    QVERIFY(board.copper.empty());
    QVERIFY(board.warnings.front().what.text().find("without an end") != std::string::npos);
}

void TestIpc2581::boardsComeBack_data() {
    QTest::addColumn<char>("revision");
    QTest::addColumn<QString>("units");
    QTest::addColumn<bool>("turnFirst");
    QTest::addColumn<bool>("mirrorWord");
    QTest::addColumn<bool>("pins");
    QTest::newRow("revision C") << 'C' << "MILLIMETER" << false << true << true;
    QTest::newRow("revision B, inch") << 'B' << "INCH" << false << true << true;
    QTest::newRow("micron") << 'C' << "MICRON" << false << true << true;
    QTest::newRow("turned before the mirror, copper without pins")
        << 'C' << "MILLIMETER" << true << true << false;
    QTest::newRow("mirrored by the layer alone") << 'B' << "MILLIMETER" << false << false << false;
    QTest::newRow("both at once") << 'C' << "INCH" << true << false << false;
}

void TestIpc2581::boardsComeBack() {
    QFETCH(char, revision);
    QFETCH(QString, units);
    QFETCH(bool, turnFirst);
    QFETCH(bool, mirrorWord);
    QFETCH(bool, pins);
    const Board board = turnedParts();
    const auto read = readIpc2581(
        ipc2581Text(board, {revision, units.toStdString(), turnFirst, mirrorWord, pins}), "b.xml");
    QVERIFY2(read.ok(), read.ok() ? "" : read.error().text().c_str());
    const Board& back = read.value();
    QVERIFY2(back.warnings.empty(), back.warnings.empty() ? "" : back.warnings.front().what.text().c_str());
    QCOMPARE(back.name, board.name);
    QCOMPARE(back.parts.size(), board.parts.size());
    QCOMPARE(back.copperLayers, 4);
    QCOMPARE(back.vias.size(), board.vias.size());
    QVERIFY(std::fabs(back.thickness_mm - board.thickness_mm) < 1e-9);
    constexpr double close_mm = 1e-4;
    for (const Part& part : board.parts) {
        const PartIndex index = back.findPart(part.designator);
        QVERIFY(index >= 0);
        const Part& other = back.parts[index];
        QCOMPARE(other.value, part.value);
        QCOMPARE(other.side, part.side);
        QVERIFY(distance_mm(other.centre, part.centre) < close_mm);
        QCOMPARE(other.pads.size(), part.pads.size());
        for (std::size_t k = 0; k < part.pads.size(); ++k) {
            QCOMPARE(other.pads[k].pin, part.pads[k].pin);
            QVERIFY2(distance_mm(other.pads[k].at, part.pads[k].at) < close_mm, part.designator.c_str());
            QCOMPARE(back.nets[other.pads[k].net].name, board.nets[part.pads[k].net].name);
            QVERIFY(std::fabs(other.pads[k].width_mm - part.pads[k].width_mm) < close_mm);
        }
    }
    for (const int layer : {1, 2})
        QVERIFY(
            std::fabs(area_mm2(united(back.copper[layer], {back.findNet(layer == 1 ? "GND" : "+3V3_0")})) -
                      area_mm2(united(board.copper[layer], {layer == 1 ? 0 : 1}))) < 0.3);
}

void TestIpc2581::brokenFilesAreToldByLine() {
    const std::string whole = ipc2581Text(turnedParts());
    // Cut off: what stands before is kept, and the place is told.
    const auto cut = readIpc2581(whole.substr(0, whole.size() * 3 / 4), "cut.xml");
    QVERIFY(cut.ok());
    QVERIFY(!cut.value().parts.empty());
    QVERIFY(cut.value().warnings.front().where.starts_with("cut.xml:"));
    QVERIFY(cut.value().warnings.front().what.text().find("ends here") != std::string::npos);
    // A word where a number should stand names its line.
    std::string wrong = whole;
    const auto at = wrong.find("<Location x=");
    wrong.replace(at, std::string("<Location x=\"").size(), "<Location x=\"z");
    const auto read = readIpc2581(wrong, "wrong.xml");
    QVERIFY(read.ok());
    const auto line = 1 + std::count(wrong.begin(), wrong.begin() + static_cast<long>(at), '\n');
    QCOMPARE(read.value().warnings.front().where, "wrong.xml:" + std::to_string(line));
    // Nothing to read at all.
    QVERIFY(!readIpc2581("<IPC-2581 revision=\"C\"></IPC-2581>", "empty.xml").ok());
    QVERIFY(!readIpc2581("<html></html>", "page.xml").ok());
    QCOMPARE(readIpc2581("<html></html>", "page.xml").error().where, std::string("page.xml:1"));
}
