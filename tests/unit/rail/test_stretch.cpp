#include "rail/behind.h"
#include "rail/handy_place.h"
#include "rail/stretch.h"
#include "support/boards.h"
#include "unit/rail/test_rail.h"

#include <QTest>
#include <algorithm>

using namespace ustor;

namespace {

std::vector<std::string> names(const Board& board, const std::vector<PartIndex>& parts) {
    std::vector<std::string> out;
    for (const PartIndex p : parts)
        out.push_back(board.parts[p].designator);
    return out;
}

} // namespace

// Links of nearly no resistance: a short on one side reads as a short on the other (common practice).
void TestStretch::linksJoinNets() {
    const Board board = testing::smallBoard();
    const Stretch input = stretchOf(board, board.findNet("VIN_12V"));
    QVERIFY(input.holds(board.findNet("VSYS_12V")));
    QVERIFY(!input.holds(board.findNet("SW")));
    QCOMPARE(names(board, input.links), std::vector<std::string>{"F1"});
    const Stretch core = stretchOf(board, board.findNet("SW"));
    QVERIFY(core.holds(board.findNet("+1V0_CORE")));
}

void TestStretch::liftedLinksSplit() {
    const Board board = testing::smallBoard();
    LinkState state;
    state.lifted.insert("F1");
    const Stretch input = stretchOf(board, board.findNet("VIN_12V"), state);
    QVERIFY(!input.holds(board.findNet("VSYS_12V")));
    QVERIFY(input.links.empty());
}

void TestStretch::closedSwitchesJoin() {
    const Board board = testing::smallBoard();
    LinkState state;
    state.closedSwitches.insert("Q1");
    const Stretch stretch = stretchOf(board, board.findNet("VSYS_12V"), state);
    QVERIFY(stretch.holds(board.findNet("+1V0_CORE")));
    QVERIFY(!stretch.holds(board.findNet("HG"))); // the gate is no way through
}

void TestStretch::groundIsNeverCrossed() {
    Board board = testing::smallBoard();
    testing::addChip(board, "L9", PartClass::Inductor, {50, 10}, "+3V3", "GND");
    const Stretch stretch = stretchOf(board, board.findNet("+3V3"));
    QCOMPARE(stretch.nets.size(), std::size_t(1));
    QVERIFY(stretchOf(board, board.findNet("GND")).nets.empty());
    QVERIFY(stretchOf(board, -1).nets.empty());
}

void TestStretch::suspectsTouchRailAndGround() {
    const Board board = testing::smallBoard();
    const auto suspects = names(board, stretchOf(board, board.findNet("+3V3")).suspects);
    QCOMPARE(suspects, (std::vector<std::string>{"C10", "C11", "C12", "C13", "C14", "C15", "U2"}));
    const auto core = names(board, stretchOf(board, board.findNet("+1V0_CORE")).suspects);
    // The low-side switch shorts the core through the inductor; the high-side one does not reach ground.
    QVERIFY(std::find(core.begin(), core.end(), "Q2") != core.end());
    QVERIFY(std::find(core.begin(), core.end(), "Q1") == core.end());
}

void TestStretch::lowestVoltageCounts() {
    Board board = testing::smallBoard();
    testing::addChip(board, "FB9", PartClass::Ferrite, {50, 30}, "+3V3", "+1V8");
    QCOMPARE(stretchOf(board, board.findNet("+3V3")).nominal->value, 1.8);
}

// A shorted high-side switch passes what is injected straight to a 1 V core (common practice).
void TestStretch::processorsBehindAreSeen() {
    const Board board = testing::smallBoard();
    const auto behind = stretchesBehind(board, stretchOf(board, board.findNet("VIN_12V")));
    QVERIFY(std::any_of(behind.begin(), behind.end(), [&](const Behind& b) {
        return !b.processors.empty() && board.parts[b.processors.front()].designator == "U1";
    }));
    QVERIFY(stretchesBehind(board, stretchOf(board, board.findNet("+3V3"))).empty());
}

void TestStretch::powerNetsOfTheDemoBoard() {
    const Board board = testing::demoBoard("chart-plotter");
    std::vector<std::string> nets;
    for (const NetIndex n : powerNets(board))
        nets.push_back(board.nets[n].name);
    for (const char* rail :
         {"+3V3", "+5V0", "+1V1_CORE", "+1V35_DDR", "+1V8", "VMAIN_12V", "VIN_12V", "+5V0_AUD", "+3V3_RF"})
        QVERIFY2(std::find(nets.begin(), nets.end(), rail) != nets.end(), rail);
    for (const char* signal : {"D0", "USB_P", "CANL", "GND"})
        QVERIFY2(std::find(nets.begin(), nets.end(), signal) == nets.end(), signal);
}

void TestStretch::handyPlacesLieOnTheRail() {
    const Board board = testing::demoBoard("greenhouse-controller");
    for (const NetIndex net : powerNets(board)) {
        const Stretch stretch = stretchOf(board, net);
        const auto pad = board.findPad(handyPlace(board, stretch));
        QVERIFY(pad.has_value());
        QVERIFY(stretch.holds(board.pad(*pad).net));
        QVERIFY(board.nets[board.pad(*pad).net].nominal.has_value());
    }
    QVERIFY(board.nets[board.pad(*board.findPad(groundPlace(board))).net].ground);
}
