#include "rail/converters.h"
#include "rail/copper.h"
#include "rail/near_far.h"
#include "rail/power_path.h"
#include "rail/siblings.h"
#include "rail/survey_way.h"
#include "support/boards.h"
#include "unit/rail/test_rail.h"

#include <QTest>
#include <algorithm>
#include <cmath>
#include <numeric>
#include <set>

using namespace ustor;
using namespace ustor::testing;

namespace {

std::string nameAt(const Board& board, PartIndex p) {
    return p < 0 ? "" : board.parts[p].designator;
}

/// Adds one more phase from VSYS_12V to +1V0_CORE with the switches and the controller of its own or of
/// another.
void addPhase(Board& board, int number, const std::string& controller) {
    const std::string n = std::to_string(number);
    const double y = 10.0 * number;
    Part& high = addChip(board, "Q" + n + "1", PartClass::Mosfet, {70, y}, "SW" + n, "VSYS_12V", 5, 4);
    high.pads.push_back({"G", {67, y}, addNet(board, "HG" + n), Side::Top, false, 0.5, 0.5, 0});
    Part& low = addChip(board, "Q" + n + "2", PartClass::Mosfet, {80, y}, "GND", "SW" + n, 5, 4);
    low.pads.push_back({"G", {77, y}, addNet(board, "LG" + n), Side::Top, false, 0.5, 0.5, 0});
    addChip(board, "L" + n, PartClass::Inductor, {90, y}, "SW" + n, "+1V0_CORE", 5, 5);
    Part& chip = board.parts[board.findPart(controller)];
    for (const char* net : {"HG", "LG", "SW"})
        chip.pads.push_back({net + n, {8, y}, addNet(board, net + n), Side::Top, false, 0.3, 0.3, 0});
}

double walk_mm(const std::vector<ustor::Stop>& stops, const std::vector<int>& order) {
    double sum = 0;
    for (std::size_t i = 1; i < order.size(); ++i)
        sum += distance_mm(stops[order[i - 1]].at, stops[order[i]].at);
    return sum;
}

} // namespace

void TestPath::convertersAreRecognised() {
    Board board = smallBoard();
    const auto found = convertersOf(board);
    QCOMPARE(found.size(), std::size_t(1));
    const Converter& c = found.front();
    QCOMPARE(c.kind, Converter::Kind::Down);
    QCOMPARE(board.nets[c.input].name, std::string("VSYS_12V"));
    QCOMPARE(board.nets[c.output].name, std::string("+1V0_CORE"));
    QCOMPARE(board.nets[c.switchNode].name, std::string("SW"));
    QCOMPARE(nameAt(board, c.inductor), std::string("L1"));
    QCOMPARE(nameAt(board, c.controller), std::string("U3"));
    QCOMPARE(c.highSide.size(), std::size_t(1));
    QCOMPARE(nameAt(board, c.highSide.front()), std::string("Q1"));
    QCOMPARE(nameAt(board, c.lowSide.front()), std::string("Q2"));
}

void TestPath::phasesAndUpConverters() {
    Board board = smallBoard();
    addPhase(board, 2, "U3");
    addPhase(board, 3, "U3");
    auto found = convertersOf(board);
    QCOMPARE(found.size(), std::size_t(3));
    QCOMPARE(phasesOf(found, 0), (std::vector<int>{1, 2}));
    // A diode that leads up and a chip that pulls down: the inductor sits at the input (common practice).
    addChip(board, "L9", PartClass::Inductor, {70, 2}, "+3V3", "LX", 4, 4);
    addChip(board, "D9", PartClass::Diode, {76, 2}, "LX", "VBOOST", 2, 1);
    addChip(board, "U9", PartClass::Regulator, {73, 6}, "LX", "GND", 2, 2);
    addChip(board, "C91", PartClass::CeramicCapacitor, {79, 2}, "VBOOST", "GND");
    addChip(board, "C92", PartClass::CeramicCapacitor, {82, 2}, "VBOOST", "GND");
    found = convertersOf(board);
    const auto up = std::find_if(found.begin(), found.end(),
                                 [](const Converter& c) { return c.kind == Converter::Kind::Up; });
    QVERIFY(up != found.end());
    QCOMPARE(board.nets[up->input].name, std::string("+3V3"));
    QCOMPARE(board.nets[up->output].name, std::string("VBOOST"));
    QCOMPARE(nameAt(board, up->controller), std::string("U9"));
}

void TestPath::theWayFromTheConnector() {
    const Board board = smallBoard();
    const PowerPath path = powerPath(board);
    const auto column = [&](const char* net) { return path.places[path.placeOf(board.findNet(net))].column; };
    QVERIFY(path.places[path.placeOf(board.findNet("VIN_12V"))].source);
    QCOMPARE(column("VIN_12V"), 0);
    QCOMPARE(column("VSYS_12V"), 1);
    QCOMPARE(column("+1V0_CORE"), 2);
    QCOMPARE(path.placeOf(board.findNet("SW")), -1); // inside its converter
    QCOMPARE(path.placeOf(board.findNet("GND")), -1);
    const auto step = [&](const char* from, const char* to) {
        return std::find_if(path.steps.begin(), path.steps.end(), [&](const PathStep& s) {
            return s.from == path.placeOf(board.findNet(from)) && s.to == path.placeOf(board.findNet(to));
        });
    };
    QVERIFY(step("VIN_12V", "VSYS_12V") != path.steps.end());
    QCOMPARE(step("VIN_12V", "VSYS_12V")->kind, StepKind::Link);
    const auto converter = step("VSYS_12V", "+1V0_CORE");
    QVERIFY(converter != path.steps.end());
    QCOMPARE(converter->kind, StepKind::Converter);
    QCOMPARE(converter->parts.size(), std::size_t(4)); // both switches, inductor, controller
    // No two places on one spot of the drawing.
    std::set<std::pair<int, int>> spots;
    for (const PathPlace& place : path.places)
        QVERIFY(spots.insert({place.column, place.row}).second);
    // A lifted fuse cuts its step.
    LinkState lifted;
    lifted.lifted.insert("F1");
    const PowerPath cut = powerPath(board, lifted);
    QVERIFY(std::any_of(cut.steps.begin(), cut.steps.end(), [](const PathStep& s) { return s.cut; }));
}

// A plug for a battery or a display behind the switch leads as far as the jack before it: the fuse tells the
// jack, whatever the nets are called.
void TestPath::theJackIsToldFromOtherPlugs() {
    Board board;
    addNet(board, "GND");
    addChip(board, "J1", PartClass::Connector, {4, 36}, "N1", "GND", 5, 4);
    addChip(board, "F1", PartClass::Fuse, {10, 36}, "N1", "N2", 3, 1.5);
    addChip(board, "C1", PartClass::CeramicCapacitor, {14, 36}, "N2", "GND");
    addChip(board, "C2", PartClass::CeramicCapacitor, {15, 36}, "N2", "GND");
    Part& input = addChip(board, "Q9", PartClass::Mosfet, {20, 36}, "N2", "VSYS_12V", 5, 4);
    input.pads.push_back({"G", {20, 33}, addNet(board, "S9"), Side::Top, false, 0.5, 0.5, 0});
    addChip(board, "C3", PartClass::CeramicCapacitor, {26, 36}, "VSYS_12V", "GND");
    addChip(board, "J2", PartClass::Connector, {40, 36}, "VSYS_12V", "GND", 5, 4);
    Part& high = addChip(board, "Q1", PartClass::Mosfet, {16, 28}, "SW", "VSYS_12V", 5, 4);
    high.pads.push_back({"G", {13, 26}, addNet(board, "HG"), Side::Top, false, 0.5, 0.5, 0});
    Part& low = addChip(board, "Q2", PartClass::Mosfet, {16, 22}, "GND", "SW", 5, 4);
    low.pads.push_back({"G", {13, 20}, addNet(board, "LG"), Side::Top, false, 0.5, 0.5, 0});
    addChip(board, "L1", PartClass::Inductor, {24, 25}, "SW", "+5V", 5, 5);
    addChip(board, "C4", PartClass::CeramicCapacitor, {30, 25}, "+5V", "GND");
    addChip(board, "C5", PartClass::CeramicCapacitor, {31, 25}, "+5V", "GND");
    // A display behind a fuse of its own, which takes what the board makes as well; a port that gives power
    // away.
    addChip(board, "F2", PartClass::Fuse, {44, 30}, "VSYS_12V", "BL", 2, 1);
    addChip(board, "C6", PartClass::CeramicCapacitor, {46, 30}, "BL", "GND").value = "4u7";
    addChip(board, "J3", PartClass::Connector, {48, 30}, "BL", "+5V", 5, 4);
    addChip(board, "C7", PartClass::CeramicCapacitor, {46, 26}, "PORT", "GND").value = "47u";
    addChip(board, "J4", PartClass::Connector, {48, 26}, "PORT", "D1", 5, 4);
    const PowerPath path = powerPath(board);
    for (const PathPlace& place : path.places)
        QCOMPARE(place.source, board.nets[place.net].name == "N1");
}

// A chip that sits on both sides of a switch at one voltage steers it, and is no regulator; a chip with three
// legs is one, whatever it is called.
void TestPath::regulatorsAreTold() {
    Board board;
    addNet(board, "GND");
    addChip(board, "J1", PartClass::Connector, {4, 36}, "+19V_IN", "GND", 5, 4);
    addChip(board, "C1", PartClass::CeramicCapacitor, {14, 36}, "+19V_IN", "GND");
    addChip(board, "C2", PartClass::CeramicCapacitor, {26, 36}, "+19V_SYS", "GND");
    Part& steers = addChip(board, "U1", PartClass::Regulator, {20, 30}, "+19V_IN", "+19V_SYS", 3, 3);
    steers.pads.push_back({"3", {21, 30}, board.findNet("GND"), Side::Top, false, 0.5, 0.5, 0});
    QVERIFY(linearRegulatorsOf(board, convertersOf(board)).empty());

    addChip(board, "C3", PartClass::CeramicCapacitor, {30, 36}, "raw", "GND");
    addChip(board, "C4", PartClass::CeramicCapacitor, {31, 36}, "raw", "GND");
    addChip(board, "C5", PartClass::CeramicCapacitor, {40, 36}, "quiet", "GND");
    Part& legs = addChip(board, "U2", PartClass::Ic, {35, 30}, "raw", "quiet", 3, 3);
    legs.pads.push_back({"3", {36, 30}, board.findNet("GND"), Side::Top, false, 0.5, 0.5, 0});
    const auto nets = powerNets(board);
    QVERIFY(std::count(nets.begin(), nets.end(), board.findNet("quiet")) == 1);
}

void TestPath::demoBoardsHaveAWay_data() {
    QTest::addColumn<QString>("stem");
    QTest::newRow("chart plotter") << "chart-plotter";
    QTest::newRow("greenhouse controller") << "greenhouse-controller";
}

/// Each power net of a whole board lies on the path, and every converter step leads one column on.
void TestPath::demoBoardsHaveAWay() {
    QFETCH(QString, stem);
    const Board board = demoBoard(stem.toStdString());
    const PowerPath path = powerPath(board);
    int sources = 0;
    for (const PathPlace& place : path.places)
        sources += place.source;
    QVERIFY(sources >= 1);
    QVERIFY(std::any_of(path.places.begin(), path.places.end(),
                        [](const PathPlace& place) { return place.column >= 2; }));
    // From one input on, everything is reached: no rail is left in the first column but the source.
    for (const PathPlace& place : path.places)
        QVERIFY2(place.source || place.column > 0, board.nets[place.net].name.c_str());
    for (const Converter& c : convertersOf(board)) {
        QVERIFY(path.placeOf(c.input) >= 0);
        QVERIFY(path.placeOf(c.output) >= 0);
        QVERIFY(c.controller >= 0);
    }
    for (const PathStep& step : path.steps)
        if (step.kind == StepKind::Converter)
            QVERIFY(path.places[step.to].column > path.places[step.from].column);
}

void TestPath::siblingsAreBuiltAlike() {
    Board board;
    addNet(board, "GND");
    for (const char* channel : {"A", "B", "C"}) {
        const std::string net = std::string("+5V0_") + channel;
        for (int i = 0; i < 3; ++i)
            addChip(board, std::string("C") + channel + std::to_string(i), PartClass::CeramicCapacitor,
                    {2.0 * i, channel[0] * 3.0}, net, "GND")
                .value = "10u";
    }
    // The third channel has one part more.
    addChip(board, "D1", PartClass::ClampDiode, {9, 9}, "+5V0_C", "GND");
    QCOMPARE(siblingNets(board, board.findNet("+5V0_A")), std::vector<NetIndex>{board.findNet("+5V0_B")});
    QVERIFY(siblingNets(board, board.findNet("+5V0_C")).empty());
    QVERIFY(siblingNets(board, board.findNet("GND")).empty());
    // What hangs together through a link is one rail, and no sibling of itself.
    addChip(board, "FB1", PartClass::Ferrite, {20, 20}, "+5V0_A", "+5V0_B");
    QVERIFY(siblingNets(board, board.findNet("+5V0_A")).empty());
}

/// Loop resistance V / I less the leads: common practice, with wire figures of ASTM B258 and IEC 60028.
void TestPath::nearOrFar() {
    const UsualLeads& clips = usualLeads()[1];
    // Two ways of a metre of AWG 18 at 20.95 mOhm/m, and 30 mOhm of contacts.
    QVERIFY(std::fabs(clips.resistance.value - (2 * 0.02095 + 0.030)) < 2e-4);
    // 1 V at 3 A over thin leads is a short right at the jack (common practice).
    const auto jack = ustor::nearOrFar(Volts(1.0), Amps(3), Volts(12), Ohms(0.32));
    QCOMPARE(jack.verdict, NearFar::Verdict::AtConnector);
    QVERIFY(std::fabs(jack.loop.value - 1.0 / 3) < 1e-9);
    const auto far = ustor::nearOrFar(Volts(1.2), Amps(3), Volts(12), clips.resistance);
    QCOMPARE(far.verdict, NearFar::Verdict::Behind);
    QVERIFY(std::fabs(far.board.value - (0.4 - clips.resistance.value)) < 1e-9);
    QCOMPARE(ustor::nearOrFar(Volts(12), Amps(0.1), Volts(12), clips.resistance).verdict,
             NearFar::Verdict::NotLimited);
    QCOMPARE(ustor::nearOrFar(Volts(0.02), Amps(3), Volts(12), Ohms(0.2)).verdict,
             NearFar::Verdict::LeadsAlone);
}

/// The way turns the board over once, visits all, and is no longer than the best of all orders allows:
/// compared with brute force over all permutations of small sets.
void TestPath::walksAreShort() {
    for (int seed = 0; seed < 20; ++seed) {
        std::vector<Stop> stops;
        for (int i = 0; i < 7; ++i)
            stops.push_back(
                {{std::fmod(37.7 * (i + 1) * (seed + 3), 60), std::fmod(23.3 * (i + 2) * (seed + 5), 40)},
                 Side::Top});
        const auto order = walkOrder(stops);
        std::vector<int> every(stops.size());
        std::iota(every.begin(), every.end(), 0);
        QVERIFY(std::is_permutation(order.begin(), order.end(), every.begin()));
        double best = 1e9;
        do
            if (every.front() == order.front()) best = std::min(best, walk_mm(stops, every));
        while (std::next_permutation(every.begin(), every.end()));
        QVERIFY2(walk_mm(stops, order) <= 1.2 * best, qPrintable(QString::number(seed)));
    }
    const Board board = demoBoard("chart-plotter");
    const auto way = surveyWay(board);
    QVERIFY(way.size() > 3);
    int turns = 0;
    for (std::size_t i = 1; i < way.size(); ++i)
        turns += way[i].side != way[i - 1].side;
    QVERIFY(turns <= 1);
    for (const SurveyStop& stop : way)
        QVERIFY(board.findPad(stop.place) && board.pad(*board.findPad(stop.place)).net == stop.net);
    const Stretch stretch = stretchOf(board, way.front().net);
    const auto tour = tourWay(board, stretch);
    for (const PartIndex suspect : stretch.suspects)
        QVERIFY(std::find(tour.begin(), tour.end(), suspect) != tour.end());
}
