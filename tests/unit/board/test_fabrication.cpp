#include "board/board_files.h"
#include "board/board_json.h"
#include "board/gerber/fabrication.h"
#include "unit/board/test_gerber.h"

#include <QTest>
#include <algorithm>
#include <cmath>

using namespace ustor;
using namespace ustor::gerber;

void TestDrills::dialects_data() {
    QTest::addColumn<QString>("text");
    QTest::newRow("inch, trailing zeros kept")
        << "M48\nINCH,TZ\nT01C0.0394\n%\nG05\nT01\nX010000Y-005000\nM30\n";
    QTest::newRow("inch, leading zeros kept") << "M48\nINCH,LZ\nT01C0.0394\n%\nT01\nX01Y-005\nM30\n";
    QTest::newRow("metric with points") << "M48\nMETRIC\nT1C1.000\n%\nG90\nG05\nT1\nX25.4Y-12.7\nT0\nM30\n";
    QTest::newRow("metric without points") << "M48\nMETRIC,TZ\nT1C1.000\n%\nT1\nX025400Y-012700\nM30\n";
    QTest::newRow("digits by a comment")
        << "M48\n;FILE_FORMAT=4:4\nMETRIC,TZ\nT1C1.0\n%\nT1\nX00254000Y-00127000\nM30\n";
    QTest::newRow("digits by example") << "M48\nMETRIC,TZ,0000.00\nT1C1.0\n%\nT1\nX002540Y-001270\nM30\n";
    QTest::newRow("attribute comment, feed and speed")
        << "M48\n; #@! "
           "TF.FileFunction,Plated,1,2,PTH\nFMAT,2\nINCH\nT1F200S65C0.0394\n%\nT1\nX1.0Y-0.5\nM30\n";
    QTest::newRow("line ends of another system")
        << "M48\r\nMETRIC\r\nT1C1.0\r\n%\r\nT1\r\nX25.4Y-12.7\r\nM30\r\n";
}

void TestDrills::dialects() {
    QFETCH(QString, text);
    QVERIFY(looksLikeDrill(text.toStdString()));
    const auto read = readDrill(text.toStdString(), "holes.drl");
    QVERIFY2(read.ok(), read.ok() ? "" : read.error().text().c_str());
    QVERIFY(read.value().warnings.empty());
    QCOMPARE(read.value().holes.size(), std::size_t(1));
    QVERIFY(distance_mm(read.value().holes[0].from, {25.4, -12.7}) < 1e-6);
    QVERIFY(std::fabs(read.value().holes[0].diameter_mm - 1) < 1e-3);
}

void TestDrills::slotsAndRepeats() {
    const auto read = readDrill(
        "M48\n;TYPE=PLATED\nMETRIC\nT1C0.8\nT2C1.0\n%\nT1\nX1.0Y1.0\nR3X2.0\nT2\nX0Y5.0G85X4.0Y5.0\n"
        "G00X1.0Y8.0\nM15\nG01X3.0Y8.0\nM16\nG05\nX9.0Y9.0\nM30\n",
        "slots.drl");
    QVERIFY(read.ok());
    const auto& holes = read.value().holes;
    QCOMPARE(holes.size(), std::size_t(7));
    QVERIFY(distance_mm(holes[3].from, {7, 1}) < 1e-9);
    QVERIFY(distance_mm(holes[4].from, {0, 5}) < 1e-9 && distance_mm(holes[4].to, {4, 5}) < 1e-9);
    QVERIFY(distance_mm(holes[5].from, {1, 8}) < 1e-9 && distance_mm(holes[5].to, {3, 8}) < 1e-9);
    QVERIFY(distance_mm(holes[6].from, {9, 9}) < 1e-9);
    QVERIFY(read.value().plating == Plating::Plated);
}

void TestDrills::whatCannotBeReadIsToldAndTheRestKept() {
    const auto read = readDrill("M48\nMETRIC\nT1C0.8\n%\nT7\nX1Y1\nT1\nX1.0Yone\nX2.0Y2.0\n?\n", "holes.drl");
    QVERIFY(read.ok());
    QCOMPARE(read.value().holes.size(), std::size_t(1));
    QCOMPARE(read.value().warnings.front().where, std::string("holes.drl:5"));
    QVERIFY(read.value().warnings.size() >= 4); // tool, coordinate, line, end
    QVERIFY(!readDrill("X", "none.drl").ok());
}

namespace {

/// Two layers of a small board: R1 and C1 on top, a via down to a bottom trace that reaches the through pin
/// J1.1.
struct Example {
    Board board;
    Fabrication fabrication;
};

void addPad(Board& board, const char* designator, const char* pin, const char* net, BoardPoint at,
            bool through) {
    PartIndex part = board.findPart(designator);
    if (part < 0) {
        part = static_cast<PartIndex>(board.parts.size());
        board.parts.emplace_back();
        board.parts.back().designator = designator;
    }
    NetIndex index = board.findNet(net);
    if (index < 0 && *net) {
        index = static_cast<NetIndex>(board.nets.size());
        board.nets.push_back({net, false, {}, false});
    }
    Pad pad;
    pad.pin = pin;
    pad.at = at;
    pad.net = index;
    pad.through = through;
    board.parts[part].pads.push_back(pad);
}

GerberFile layer(const std::string& body) {
    return readGerber("%FSLAX33Y33*%%MOMM*%%ADD10R,1X1*%%ADD11C,0.3*%%ADD12C,0.6*%%ADD13C,0.1*%" + body +
                          "M02*",
                      "x.gbr")
        .value();
}

Example example(const std::string& top, const std::string& bottom, const std::string& drill) {
    Example e;
    e.fabrication.layers.push_back({"top", {LayerKind::Copper, 1, false}, layer(top)});
    e.fabrication.layers.push_back({"bottom", {LayerKind::Copper, 0, true}, layer(bottom)});
    e.fabrication.layers.push_back({"edge",
                                    {LayerKind::Profile, 0, false},
                                    layer("D13*X-2000Y-2000D02*X12000D01*Y6000D01*X-2000D01*Y-2000D01*")});
    e.fabrication.drills.push_back(
        {"holes", readDrill("M48\nMETRIC\nT1C0.3\nT2C0.8\n%\n" + drill + "M30\n", "h.drl").value()});
    return e;
}

const std::string topCopper = "D10*X0Y0D03*X2000D03*X5000D03*X7000D03*D11*X2000Y0D02*X5000D01*"
                              "D11*X7000Y0D02*Y3000D01*D12*Y3000D03*X0Y4000D03*X10000Y4000D03*";
const std::string bottomCopper =
    "D11*X7000Y3000D02*X10000Y4000D01*D12*X7000Y3000D03*X10000Y4000D03*X0Y4000D03*";
const std::string holes = "T1\nX7.0Y3.0\nT2\nX0.0Y4.0\nX10.0Y4.0\n";

void addPads(Board& board) {
    addPad(board, "R1", "1", "IN", {0, 0}, false);
    addPad(board, "R1", "2", "MID", {2, 0}, false);
    addPad(board, "C1", "1", "MID", {5, 0}, false);
    addPad(board, "C1", "2", "OUT", {7, 0}, false);
    addPad(board, "J1", "1", "OUT", {10, 4}, true);
    addPad(board, "J1", "2", "", {0, 4}, true);
}

const CopperPiece* pieceAt(const Board& board, std::size_t layer, BoardPoint at) {
    for (const CopperPiece& piece : board.copper[layer].pieces)
        if (contains(piece, at)) return &piece;
    return nullptr;
}

} // namespace

void TestFabrication::copperTakesTheNetsOfItsPads() {
    Example e = example(topCopper, bottomCopper, holes);
    addPads(e.board);
    joinFabrication(e.board, e.fabrication);
    const Board& b = e.board;
    QVERIFY2(b.warnings.empty(), b.warnings.empty() ? "" : b.warnings[0].what.text().c_str());
    QCOMPARE(b.copper.size(), std::size_t(2));
    QCOMPARE(b.copperLayers, 2);
    QCOMPARE(pieceAt(b, 0, {3.5, 0})->net, b.findNet("MID"));
    QCOMPARE(pieceAt(b, 0, {7, 2})->net, b.findNet("OUT"));
    // Reached only through the via.
    QCOMPARE(pieceAt(b, 1, {8.5, 3.5})->net, b.findNet("OUT"));
    QVERIFY(!pieceAt(b, 0, {1, 0}));
    QCOMPARE(b.vias.size(), std::size_t(1)); // the other holes are pads
    QCOMPARE(b.vias[0].net, b.findNet("OUT"));
    QCOMPARE(b.outline.size(), std::size_t(4));
    QVERIFY(std::fabs(b.box().width_mm() - 14) < 0.02 && std::fabs(b.box().height_mm() - 8) < 0.02);
}

void TestFabrication::otherOriginsAreBroughtTogether() {
    Example e = example(topCopper, bottomCopper, holes);
    addPads(e.board);
    for (Part& part : e.board.parts)
        for (Pad& pad : part.pads)
            pad.at = {pad.at.x_mm + 101.6, pad.at.y_mm - 33.3};
    joinFabrication(e.board, e.fabrication);
    const CopperPiece* piece = pieceAt(e.board, 1, {8.5 + 101.6, 3.5 - 33.3});
    QVERIFY(piece);
    QCOMPARE(piece->net, e.board.findNet("OUT"));
    QVERIFY(std::any_of(e.board.warnings.begin(), e.board.warnings.end(), [](const BoardWarning& w) {
        return w.what.text().find("another origin") != std::string::npos;
    }));
}

void TestFabrication::whatNothingPlacesIsPlacedByTwoClicks() {
    // Two holes, from far away: no shift can be told from so few.
    Example e = example(topCopper, bottomCopper, "T1\nX107.0Y-47.0\nT2\nX110.0Y-46.0\n");
    addPads(e.board);
    const Board before = e.board;
    const auto unplaced = joinFabrication(e.board, e.fabrication);
    QCOMPARE(unplaced.size(), std::size_t(1));
    QCOMPARE(unplaced[0].name, std::string("holes"));
    QCOMPARE(unplaced[0].places.size(), std::size_t(2));
    QVERIFY(e.board.warnings[0].what.text().find("nothing tells") != std::string::npos);
    QCOMPARE(pieceAt(e.board, 1, {8.5, 3.5})->net, e.board.findNet("OUT")); // by J1.1, not through the via
    QVERIFY(distance_mm(e.board.vias[0].at, {107, -47}) < 1e-9);            // where the file has it
    const HandPlacing placing = placedBy(unplaced[0], {110, -46}, before, {10, 4});
    QVERIFY(distance_mm(placing.shift, {-100, 50}) < 1e-9);
    e.board = before;
    QVERIFY(joinFabrication(e.board, e.fabrication, {{"holes", placing.shift}}).empty());
    QCOMPARE(e.board.vias.size(), std::size_t(1));
    QVERIFY(distance_mm(e.board.vias[0].at, {7, 3}) < 1e-9);
    QCOMPARE(pieceAt(e.board, 1, {8.5, 3.5})->net, e.board.findNet("OUT"));
    QVERIFY(e.board.warnings[0].what.text().find("by hand") != std::string::npos);
}

void TestFabrication::holesAreNotLaidOnPadsWithoutHoles() {
    // A via stands half a millimetre beside each pad: one shift brings all of them onto pads, and is wrong.
    Board board;
    std::string drill;
    for (int i = 0; i < 8; ++i) {
        const double x = 3.0 * i, y = 1.7 * (i % 3);
        addPad(board, ("C" + std::to_string(i)).c_str(), "1", "A", {x, y}, false);
        drill += "X" + std::to_string(x + 50.5) + "Y" + std::to_string(y + 20) + "\n";
    }
    Fabrication fabrication;
    fabrication.drills.push_back(
        {"holes", readDrill("M48\nMETRIC\nT1C0.3\n%\nT1\n" + drill + "M30\n", "h").value()});
    const auto unplaced = joinFabrication(board, fabrication);
    QCOMPARE(unplaced.size(), std::size_t(1));
}

void TestFabrication::placesOnPadsAreCounted() {
    Board board;
    addPads(board);
    UnplacedFile file{"layer", {}, {}};
    for (const BoardPoint p : placesOn(board))
        file.places.push_back({p.x_mm - 30.21, p.y_mm + 7.4});
    file.places.push_back({500, 500}); // and one that belongs nowhere
    const HandPlacing placing = placedBy(file, {2 - 30.21, 7.4}, board, {2, 0});
    QVERIFY(distance_mm(placing.shift, {30.21, -7.4}) < 1e-9);
    QCOMPARE(placing.onPads, 6);
    QCOMPARE(placedBy(file, {2 - 30.21, 7.4}, board, {5, 0}).onPads, 1); // the clicked one
}

void TestFabrication::joinedNetsAreTold() {
    // A trace that also joins the two pads of R1.
    Example e = example(topCopper + "D11*X0Y0D02*X2000D01*", bottomCopper, holes);
    addPads(e.board);
    joinFabrication(e.board, e.fabrication);
    QCOMPARE(e.board.warnings.size(), std::size_t(1));
    QVERIFY(e.board.warnings[0].what.text().find("IN, MID") != std::string::npos);
    QCOMPARE(pieceAt(e.board, 0, {0, 0})->net, e.board.findNet("MID")); // two pads against one
}

void TestFabrication::attributesAloneMakeABoard() {
    Example e = example(
        "%TO.N,A*%%TO.P,R1,1*%D10*X0Y0D03*%TO.N,B*%%TO.P,R1,2*%X2000D03*%TO.P,J1,1*%D12*X10000Y4000D03*%TD*%"
        "%TO.N,B*%D11*X2000Y0D02*X10000D01*Y4000D01*",
        "%TO.N,B*%%TO.P,J1,1*%D12*X10000Y4000D03*", "T2\nX10.0Y4.0\n");
    joinFabrication(e.board, e.fabrication);
    QCOMPARE(e.board.parts.size(), std::size_t(2));
    const auto pad = e.board.findPad("J1.1");
    QVERIFY(pad && e.board.pad(*pad).through);
    QCOMPARE(e.board.pad(*pad).hole_mm, 0.8);
    QCOMPARE(e.board.nets.size(), std::size_t(2));
    QCOMPARE(pieceAt(e.board, 0, {6, 0})->net, e.board.findNet("B"));
    QVERIFY(e.board.vias.empty());
}

void TestFabrication::copperWithoutNamesGetsSome() {
    Example e = example(topCopper, bottomCopper, holes);
    addPads(e.board);
    e.board.nets.clear();
    for (Part& part : e.board.parts)
        for (Pad& pad : part.pads)
            pad.net = -1;
    joinFabrication(e.board, e.fabrication);
    const auto netOf = [&](const char* place) { return e.board.pad(*e.board.findPad(place)).net; };
    QVERIFY(netOf("R1.2") >= 0);
    QCOMPARE(netOf("R1.2"), netOf("C1.1"));
    QCOMPARE(netOf("C1.2"), netOf("J1.1"));
    QVERIFY(netOf("R1.2") != netOf("C1.2"));
    QCOMPARE(netOf("R1.1"), -1); // one pad alone is no net
}

void TestFabrication::copperComesBackFromABoardFile() {
    Example e = example(topCopper + "%LPC*%D11*X2000Y0D03*", bottomCopper, holes);
    addPads(e.board);
    joinFabrication(e.board, e.fabrication);
    const auto back = boardFromJson(boardToJson(e.board), "back.board.json");
    QVERIFY2(back.ok(), back.ok() ? "" : back.error().text().c_str());
    QCOMPARE(back.value().copper.size(), e.board.copper.size());
    for (std::size_t i = 0; i < e.board.copper.size(); ++i) {
        QCOMPARE(back.value().copper[i].pieces.size(), e.board.copper[i].pieces.size());
        QVERIFY(std::fabs(area_mm2(back.value().copper[i]) - area_mm2(e.board.copper[i])) < 1e-3);
        QCOMPARE(back.value().copper[i].pieces[0].net, e.board.copper[i].pieces[0].net);
    }
    QVERIFY(
        !boardFromJson(
             R"({"format":"ustor-board/1","nets":[],"parts":[],"copper":[{"pieces":[{"outline_mm":[[0,0]]}]}]})",
             "short.board.json")
             .ok());
}
