#include "diagnosis/assess.h"
#include "rail/converters.h"
#include "support/boards.h"
#include "support/facts.h"
#include "unit/diagnosis/test_diagnosis.h"

#include <QTest>
#include <algorithm>

using namespace ustor;
using testing::addChip;
using testing::addNet;
using testing::factsOf;
using testing::ohms;

namespace {

/// A chip with one pad a net, side by side.
Part& addChipOn(Board& board, const char* name, PartClass partClass, BoardPoint at,
                const std::vector<const char*>& nets, double size_mm) {
    Part& chip = addChip(board, name, partClass, at, nets[0], nets[1], size_mm, size_mm);
    for (std::size_t i = 2; i < nets.size(); ++i)
        chip.pads.push_back({std::to_string(i + 1),
                             {at.x_mm - size_mm / 2 + 0.5 * static_cast<double>(i), at.y_mm},
                             addNet(board, nets[i]),
                             Side::Top,
                             false,
                             0.2,
                             0.2,
                             0});
    return chip;
}

/// A pocket device as untidy files give it: one cell, no name tells a voltage. Everything is made from one
/// net that a large power chip hangs on; a display's supply is raised by a chip with its switches inside and
/// leads to a plug; a small rail comes from inside the power chip.
Board pocketDevice() {
    Board board;
    addNet(board, "GND");
    addChip(board, "J1", PartClass::Connector, {4, 36}, "CELL", "GND", 4, 3);
    for (const char* name : {"C1", "C2"})
        addChip(board, name, PartClass::CeramicCapacitor, {10, 36}, "CELL", "GND");
    addChipOn(board, "U1", PartClass::Regulator, {16, 34}, {"CELL", "N_SYS", "N_LX0", "SDA", "GND"}, 3);
    addChip(board, "L1", PartClass::Inductor, {20, 36}, "N_LX0", "N_SYS", 2, 2);
    for (int i = 3; i < 15; ++i)
        addChip(board, "C" + std::to_string(i), PartClass::CeramicCapacitor,
                {4.0 + 2.5 * static_cast<double>(i), 30}, "N_SYS", "GND");
    addChipOn(
        board, "U2", PartClass::Ic, {20, 20},
        {"N_SYS", "N_LX1", "N_LX2", "N_SMALL", "SDA", "SCL", "RST", "ON", "N_SYS", "N_SYS", "GND", "GND"},
        9.5);
    addChip(board, "L2", PartClass::Inductor, {30, 22}, "N_LX1", "N_A", 2, 2);
    addChip(board, "L3", PartClass::Inductor, {30, 18}, "N_LX2", "N_B", 2, 2);
    for (const char* name : {"C20", "C21"})
        addChip(board, name, PartClass::CeramicCapacitor, {34, 22}, "N_A", "GND");
    for (const char* name : {"C22", "C23"})
        addChip(board, name, PartClass::CeramicCapacitor, {34, 18}, "N_B", "GND");
    for (const char* name : {"C24", "C25"})
        addChip(board, name, PartClass::CeramicCapacitor, {34, 14}, "N_SMALL", "GND");
    addChipOn(board, "U3", PartClass::Processor, {44, 20},
              {"N_A", "N_B", "N_SMALL", "SDA", "SCL", "RST", "DQ0", "DQ1", "GND"}, 11);
    addChipOn(board, "U4", PartClass::Ic, {44, 8}, {"N_SYS", "N_LX3", "N_HIGH", "GND"}, 2);
    addChip(board, "L4", PartClass::Inductor, {40, 8}, "N_SYS", "N_LX3", 2, 2);
    for (const char* name : {"C30", "C31"})
        addChip(board, name, PartClass::CeramicCapacitor, {48, 8}, "N_HIGH", "GND");
    Part& plug = addChip(board, "J2", PartClass::Connector, {54, 8}, "N_HIGH", "N_A", 4, 3);
    plug.pads.push_back({"3", {54, 9}, board.findNet("GND"), Side::Top, false, 0.5, 0.5, 0});
    return board;
}

double odds(const Assessment& a, const char* part) {
    return a.belief.cause[static_cast<std::size_t>(a.state.board.findPart(part))];
}
double onRail(const Assessment& a, const char* net) {
    for (const RailJudgement& rail : a.rails)
        if (a.state.board.nets[static_cast<std::size_t>(rail.net)].name == net) return rail.shorted;
    return -1;
}
double nothing(const Assessment& a) {
    double sum = 0;
    for (const Hypothesis& h : a.belief.hypotheses)
        if (h.causes.size() == 1 && h.causes[0].kind == FaultKind::Nothing) sum += h.odds;
    return sum;
}

} // namespace

// A converter lowers from the net that others are made of, and raises from it: with the switches inside the
// chip nothing but the rails tells which.
void TestPocket::aConverterThatRaisesIsTold() {
    const Board board = pocketDevice();
    const auto converters = convertersOf(board);
    const auto around = [&](const char* coil) {
        const auto found = std::find_if(converters.begin(), converters.end(), [&](const Converter& c) {
            return c.inductor == board.findPart(coil);
        });
        return found == converters.end() ? Converter{} : *found;
    };
    QCOMPARE(around("L4").input, board.findNet("N_SYS"));
    QCOMPARE(around("L4").output, board.findNet("N_HIGH"));
    QCOMPARE(around("L2").input, board.findNet("N_SYS"));
    QCOMPARE(around("L2").output, board.findNet("N_A"));
    // Where voltages are known nothing is lowered to a higher one.
    Board named = board;
    named.nets[static_cast<std::size_t>(named.findNet("N_SYS"))].nominal = Volts(3.8);
    named.nets[static_cast<std::size_t>(named.findNet("N_HIGH"))].nominal = Volts(5.5);
    const auto told = convertersOf(named);
    QVERIFY(std::any_of(told.begin(), told.end(), [&](const Converter& c) {
        return c.inductor == named.findPart("L4") && c.output == named.findNet("N_HIGH");
    }));
}

// Common practice: the net that every rail is made of reads kilohms; ohms there are a short, however large
// the chips that hang on it. So do ohms on a small rail that no inductor feeds.
void TestPocket::theMainSupplyIsNotLowByNature() {
    const Board board = pocketDevice();
    const Assessment main = assess(board, factsOf({Complaint{"dead"}, ohms("C5.1", 0.4)}), {});
    QVERIFY2(onRail(main, "N_SYS") > 0.9, qPrintable(QString::number(onRail(main, "N_SYS"))));
    const Assessment small = assess(board, factsOf({Complaint{"dead"}, ohms("C24.1", 0.8)}), {});
    const Assessment core = assess(board, factsOf({Complaint{"dead"}, ohms("C20.1", 0.8)}), {});
    QVERIFY2(onRail(small, "N_SMALL") > 0.5, qPrintable(QString::number(onRail(small, "N_SMALL"))));
    QVERIFY2(onRail(core, "N_A") < 0.2, qPrintable(QString::number(onRail(core, "N_A"))));
}

// Common practice: a display that is dark, a port that is dead: the board starts all the same.
void TestPocket::aBoardStartsWithWhatLeadsToAPlugShorted() {
    const Board board = pocketDevice();
    const std::vector<FactBody> starts{Complaint{"no picture"}, SourceShows{3.8, 0.3, "", Reaction::Starts}};
    std::vector<FactBody> display = starts, core = starts;
    display.push_back(ohms("C30.1", 0.5));
    core.push_back(ohms("C5.1", 0.5));
    const Assessment a = assess(board, factsOf(display), {}), b = assess(board, factsOf(core), {});
    QVERIFY2(onRail(a, "N_HIGH") > 0.5, qPrintable(QString::number(onRail(a, "N_HIGH"))));
    QVERIFY(odds(a, "C30") > nothing(a));
    QVERIFY(onRail(b, "N_SYS") < onRail(a, "N_HIGH")); // and does not without what it is made of
}

// Common practice: a fan's plug behind a fuse of its own takes power. With that fuse burnt the board starts,
// and what hangs behind it is asked.
void TestPocket::aBurntFuseOfABranch() {
    Board board;
    addNet(board, "GND");
    Part& edge = addChip(board, "J1", PartClass::Connector, {4, 36}, "+12V_EDGE", "GND", 8, 3);
    edge.pads.push_back({"3", {5, 36}, board.findNet("+12V_EDGE"), Side::Top, false, 0.5, 0.5, 0});
    edge.pads.push_back({"4", {6, 36}, addNet(board, "RST"), Side::Top, false, 0.5, 0.5, 0});
    Part& fan = addChip(board, "J3", PartClass::Connector, {50, 36}, "+12V_FAN", "GND", 4, 3);
    fan.pads.push_back({"3", {51, 36}, addNet(board, "TACHO"), Side::Top, false, 0.5, 0.5, 0});
    addChip(board, "F3", PartClass::Fuse, {44, 36}, "+12V", "+12V_FAN", 2, 1);
    addChip(board, "F1", PartClass::Fuse, {10, 36}, "+12V_EDGE", "+12V", 3, 1.5);
    addChip(board, "C40", PartClass::CeramicCapacitor, {47, 36}, "+12V_FAN", "GND");
    for (const char* name : {"C1", "C2", "C3"})
        addChip(board, name, PartClass::CeramicCapacitor, {16, 36}, "+12V", "GND");
    addChipOn(board, "U1", PartClass::Regulator, {20, 30}, {"+12V", "LX", "FB", "EN", "GND"}, 3);
    addChip(board, "L1", PartClass::Inductor, {24, 30}, "LX", "+3V3", 3, 3);
    for (const char* name : {"C10", "C11"})
        addChip(board, name, PartClass::CeramicCapacitor, {28, 30}, "+3V3", "GND");
    addChipOn(board, "U2", PartClass::Ic, {36, 26}, {"+3V3", "RST", "TACHO", "DQ0", "DQ1", "GND"}, 7);

    const std::vector<FactBody> burnt{Complaint{"fan stands still"},
                                      SourceShows{12, 0.4, "", Reaction::Starts},
                                      Seen{"F3", Damage::Burnt, ""}};
    const Assessment seen = assess(board, factsOf(burnt), {});
    QVERIFY2(odds(seen, "F3") > 0.5 && odds(seen, "F1") < 0.1,
             qPrintable(QString("%1 %2").arg(odds(seen, "F3")).arg(odds(seen, "F1"))));
    std::vector<FactBody> read = burnt;
    read.push_back(ohms("C40.1", 0.4));
    const Assessment behind = assess(board, factsOf(read), {});
    QVERIFY2(odds(behind, "J3") + odds(behind, "C40") > 0.7,
             qPrintable(QString("%1 %2").arg(odds(behind, "J3")).arg(odds(behind, "C40"))));
    QVERIFY(odds(behind, "C1") < 0.05);
}

// Common practice: measure once more before somebody is called guilty. One free reading after a part came off
// may be a slip of the probe.
void TestPocket::whatCameOffIsNotGuiltyByASlip() {
    const Board board = pocketDevice();
    const std::vector<FactBody> off{Complaint{"dead"}, ohms("C5.1", 0.4), Lifted{"C9"}, ohms("C5.1", 2000)};
    const Assessment a = assess(board, factsOf(off), {});
    const auto again = std::find_if(a.next.begin(), a.next.end(), [&](const NextMove& move) {
        return move.kind == MoveKind::MeasureRail && netOfPlace(board, move.place) == board.findNet("N_SYS");
    });
    QVERIFY(again != a.next.end());
    QCOMPARE(again->mode, MeterMode::Diode);
}
