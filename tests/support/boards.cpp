#include "support/boards.h"

#include "base/check.h"
#include "board/board_files.h"
#include "board/nominal_voltage.h"

#include <QString>

namespace ustor::testing {

NetIndex addNet(Board& board, const std::string& name) {
    if (const NetIndex known = board.findNet(name); known >= 0) return known;
    board.nets.push_back({name, isGroundName(name), nominalFromName(name), false});
    return static_cast<NetIndex>(board.nets.size()) - 1;
}

Part& addChip(Board& board, const std::string& designator, PartClass partClass, BoardPoint at,
              const std::string& netA, const std::string& netB, double length_mm, double width_mm) {
    Part part;
    part.designator = designator;
    part.partClass = partClass;
    part.centre = at;
    part.width_mm = length_mm;
    part.height_mm = width_mm;
    const double half = length_mm / 2;
    part.pads.push_back(
        {"1", {at.x_mm - half, at.y_mm}, addNet(board, netA), Side::Top, false, 0.4, width_mm, 0});
    part.pads.push_back(
        {"2", {at.x_mm + half, at.y_mm}, addNet(board, netB), Side::Top, false, 0.4, width_mm, 0});
    board.parts.push_back(part);
    return board.parts.back();
}

Board smallBoard() {
    Board board;
    board.name = "small";
    board.outline = {{0, 0}, {60, 0}, {60, 40}, {0, 40}};
    addNet(board, "GND");
    addChip(board, "J1", PartClass::Connector, {4, 36}, "VIN_12V", "GND", 5, 4);
    addChip(board, "F1", PartClass::Fuse, {10, 36}, "VIN_12V", "VSYS_12V", 3.2, 1.6);
    addChip(board, "C1", PartClass::CeramicCapacitor, {16, 36}, "VSYS_12V", "GND", 3.2, 1.6);
    addChip(board, "C2", PartClass::CeramicCapacitor, {20, 36}, "VSYS_12V", "GND", 3.2, 1.6);
    Part& high = addChip(board, "Q1", PartClass::Mosfet, {16, 28}, "SW", "VSYS_12V", 5, 4);
    high.pads[0].pin = "S";
    high.pads[1].pin = "D";
    high.pads.push_back({"G", {13, 26}, addNet(board, "HG"), Side::Top, false, 0.5, 0.5, 0});
    Part& low = addChip(board, "Q2", PartClass::Mosfet, {16, 22}, "GND", "SW", 5, 4);
    low.pads[0].pin = "S";
    low.pads[1].pin = "D";
    low.pads.push_back({"G", {13, 20}, addNet(board, "LG"), Side::Top, false, 0.5, 0.5, 0});
    Part& control = addChip(board, "U3", PartClass::Regulator, {8, 25}, "VSYS_12V", "GND", 3, 3);
    control.pads.push_back({"3", {8, 26.5}, addNet(board, "SW"), Side::Top, false, 0.5, 0.5, 0});
    control.pads.push_back({"4", {8, 23.5}, addNet(board, "HG"), Side::Top, false, 0.5, 0.5, 0});
    addChip(board, "L1", PartClass::Inductor, {24, 25}, "SW", "+1V0_CORE", 5, 5);
    addChip(board, "C3", PartClass::CeramicCapacitor, {30, 25}, "+1V0_CORE", "GND");
    addChip(board, "C4", PartClass::CeramicCapacitor, {33, 25}, "+1V0_CORE", "GND");
    addChip(board, "U1", PartClass::Processor, {40, 25}, "+1V0_CORE", "GND", 12, 12);
    for (int i = 0; i < 6; ++i)
        addChip(board, "C" + std::to_string(10 + i), PartClass::CeramicCapacitor, {10 + 3.0 * i, 8}, "+3V3",
                "GND");
    addChip(board, "U2", PartClass::Ic, {34, 8}, "+3V3", "GND", 5, 5);
    addChip(board, "R1", PartClass::Resistor, {42, 8}, "+3V3", "LG");
    return board;
}

Board demoBoard(const std::string& stem) {
    const std::string folder = qEnvironmentVariable("USTOR_DEMO_BOARDS").toStdString();
    const auto board = readBoardFiles({folder + "/" + stem + ".356", folder + "/" + stem + ".centroid.csv"});
    USTOR_CHECK(board.ok(), "the demo board can be read");
    return board.value();
}

} // namespace ustor::testing
