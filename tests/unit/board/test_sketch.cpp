#include "base/random.h"
#include "board/board_json.h"
#include "board/sketch/beep_nets.h"
#include "board/sketch/photo_frame.h"
#include "board/sketch/sketch.h"
#include "unit/board/test_board.h"

#include <QTest>
#include <cmath>

using namespace ustor;

namespace {

/// A pinhole camera (x = f X / Z): a rectangle of w by h millimetres, tilted, in a picture of 1000 by 800.
std::array<PixelPoint, 4> seen(double w, double h, double tilt, double turn) {
    const auto project = [&](double x_mm, double y_mm) {
        const double x = x_mm * std::cos(turn), z = -x_mm * std::sin(turn);
        const double y = y_mm * std::cos(tilt) - z * std::sin(tilt),
                     depth = y_mm * std::sin(tilt) + z * std::cos(tilt);
        return PixelPoint{500 + 900 * x / (150 + depth), 400 - 900 * y / (150 + depth)};
    };
    return {project(-w / 2, h / 2), project(w / 2, h / 2), project(w / 2, -h / 2), project(-w / 2, -h / 2)};
}

Sketch capacitors(int count) {
    Sketch sketch;
    sketch.name = "hub";
    for (int i = 0; i < count; ++i)
        (void)stamp(sketch, PartClass::CeramicCapacitor, "0603", Side::Top,
                    {5 + 4.0 * (i % 8), 5 + 4.0 * (i / 8)}, 0);
    return sketch;
}

} // namespace

void TestSketch::perspectiveIsRemoved() {
    for (const Side side : {Side::Top, Side::Bottom}) {
        BoardPhoto photo{side, "x.png", seen(62, 38, 0.3, -0.2), {0, 0}, 62, 38};
        const auto frame = PhotoFrame::create(photo);
        QVERIFY(frame.ok());
        // The photo's upper left is the board's upper left from above, its upper right from below.
        const BoardPoint first = frame.value().toBoard(photo.corners[0]);
        QVERIFY(distance_mm(first, {side == Side::Top ? 0.0 : 62.0, 38}) < 1e-9);
        // The middle of the board is not in the middle of its picture, and is found all the same.
        const BoardPoint middle = frame.value().toBoard({500, 400});
        QVERIFY(distance_mm(middle, {31, 19}) < 1e-6);
        QVERIFY(distance_px(frame.value().toPhoto({12, 7}), frame.value().toPhoto(frame.value().toBoard(
                                                                frame.value().toPhoto({12, 7})))) < 1e-9);
    }
}

// Against a camera made by hand from its definition: the true ratio comes out for any tilt.
void TestSketch::aspectOfATiltedRectangle() {
    for (const auto& [tilt, turn] : {std::pair{0.0, 0.0}, {0.3, 0.2}, {0.05, -0.3}, {-0.25, 0.1}}) {
        const auto ratio = aspectOfRectangle(seen(62, 38, tilt, turn), 1000, 800);
        QVERIFY(ratio.ok());
        QVERIFY2(std::fabs(ratio.value() / (62.0 / 38) - 1) < 1e-3,
                 qPrintable(QString::number(ratio.value())));
    }
}

void TestSketch::badCornersAreToldApart() {
    QVERIFY(!aspectOfRectangle({{{0, 0}, {10, 10}, {10, 0}, {0, 10}}}, 20, 20).ok()); // crossed over
    QVERIFY(!aspectOfRectangle({{{0, 0}, {5, 0}, {10, 0}, {0, 10}}}, 20, 20).ok());   // three on a line
    QVERIFY(!PhotoFrame::create({Side::Top, "x.png", seen(1, 1, 0, 0), {0, 0}, 0, 10}).ok());
}

void TestSketch::beepsMakeNets() {
    Sketch sketch = capacitors(3);
    sketch.beeps = {{"C1.1", "C2.1", true}, {"C2.1", "C3.1", true}, {"C1.2", "C2.2", true}};
    sketch.names = {{"C2.2", "GND"}, {"C3.1", "+5V"}};
    const Board board = boardOf(sketch);
    const auto netOf = [&](const char* place) { return board.nets[board.pad(*board.findPad(place)).net]; };
    QCOMPARE(netOf("C1.1").name, std::string("+5V"));
    QCOMPARE(netOf("C1.1").nominal->value, 5.0);
    QVERIFY(netOf("C1.2").ground);
    QCOMPARE(netOf("C3.2").name, std::string("C3.2")); // nobody said where it goes
    QVERIFY(!stamp(sketch, PartClass::Ic, "NO-SUCH", Side::Top, {0, 0}, 0).ok());
}

void TestSketch::clashesNameTheAnswers() {
    Sketch sketch = capacitors(4);
    sketch.beeps = {
        {"C1.1", "C2.1", true}, {"C3.1", "C4.1", true}, {"C2.1", "C3.1", true}, {"C1.1", "C4.1", false}};
    const BeepNets nets(sketch);
    QCOMPARE(nets.clashes().size(), std::size_t(1));
    QCOMPARE(nets.clashes().front().denied, std::size_t(3));
    QCOMPARE(nets.clashes().front().joining, (std::vector<std::size_t>{0, 2, 1}));
}

// A power area of forty parts on three rails and ground, answered as it is asked: a usable map takes no more
// beeps than fit into ten minutes at four seconds each (common practice).
void TestSketch::proposalsSettleABoard() {
    Sketch sketch = capacitors(40);
    sketch.names = {{"C1.2", "GND"}};
    const auto truth = [](const std::string& place) {
        const int number = std::stoi(place.substr(1));
        if (place.ends_with(".2")) return 0;
        return number <= 20 ? 1 : number <= 32 ? 2 : 3;
    };
    int asked = 0;
    const auto wrongPads = [&] {
        const BeepNets nets(sketch);
        int wrong = 0;
        for (int i = 2; i <= 40; ++i) {
            const std::string name = "C" + std::to_string(i);
            const int first = i <= 20 ? 1 : i <= 32 ? 21 : 33;
            wrong += !nets.joined(name + ".2", "C1.2");
            wrong += i != first && !nets.joined(name + ".1", "C" + std::to_string(first) + ".1");
        }
        return wrong;
    };
    constexpr int tenMinutes = 150;
    while (asked < tenMinutes && wrongPads() > 4) {
        const auto next = BeepNets(sketch).proposals(1);
        QVERIFY(!next.empty());
        sketch.beeps.push_back({next[0].a, next[0].b, truth(next[0].a) == truth(next[0].b)});
        ++asked;
    }
    qInfo("%d beeps, %d pads of 80 not yet in their net", asked, wrongPads());
    QVERIFY(wrongPads() <= 4);
    QVERIFY(BeepNets(sketch).clashes().empty());
}

void TestSketch::comesBackFromItsFile() {
    Sketch sketch = capacitors(2);
    (void)stamp(sketch, PartClass::Mosfet, "SO-8", Side::Bottom, {30, 9}, 90);
    sketch.photos = {{Side::Bottom, "bottom.png", seen(62, 38, 0.1, 0.1), {0, 0}, 62, 38}};
    sketch.beeps = {{"C1.1", "Q1.5", true}};
    sketch.names = {{"C1.2", "GND"}};
    const auto again = sketchFromJson(sketchToJson(sketch), "s.json");
    QVERIFY2(again.ok(), again.ok() ? "" : again.error().text().c_str());
    QCOMPARE(sketchToJson(again.value()), sketchToJson(sketch));
    // The board keeps its photo, and names the file that is wrong.
    const auto board = boardFromJson(boardToJson(boardOf(sketch)), "b.json");
    QVERIFY(board.ok() && board.value().photos.size() == 1);
    const auto bad = sketchFromJson("{\"format\":\"ustor-sketch/1\",\"photos\":[{\"file\":1}]}", "bad.json");
    QVERIFY(!bad.ok());
    QCOMPARE(bad.error().where, std::string("bad.json"));
}
