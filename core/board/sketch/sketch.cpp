#include "board/sketch/sketch.h"

#include "base/result.h"
#include "board/board_builder.h"
#include "board/board_join.h"
#include "board/sketch/beep_nets.h"
#include "board/sketch/footprint.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ustor {

Result<std::string> stamp(Sketch& sketch, PartClass partClass, const std::string& caseCode, Side side,
                          BoardPoint at, double rotation_deg) {
    if (!footprintOf(caseCode))
        return Error{say("no such case: {caseCode}", {{"caseCode", caseCode}}), "",
                     say("nothing was stamped")};
    const std::string letter(letterOf(partClass));
    std::string name;
    for (int number = 1; name.empty(); ++number) {
        const std::string tried = letter + std::to_string(number);
        const bool taken = std::any_of(sketch.stamps.begin(), sketch.stamps.end(),
                                       [&](const Stamp& s) { return s.designator == tried; });
        if (!taken) name = tried;
    }
    sketch.stamps.push_back({name, caseCode, "", partClass, side, at, rotation_deg});
    return name;
}

std::vector<Pad> padsOf(const Stamp& stamp) {
    std::vector<Pad> pads;
    const auto footprint = footprintOf(stamp.caseCode);
    if (!footprint) return pads;
    const double turn = stamp.rotation_deg * std::numbers::pi / 180, c = std::cos(turn), s = std::sin(turn);
    // A part below is seen through the board: its pins run the other way round.
    const double mirror = stamp.side == Side::Top ? 1 : -1;
    const bool upright = std::fabs(s) > std::fabs(c);
    for (const auto& land : footprint->lands) {
        Pad pad;
        pad.pin = land.pin;
        const double x = mirror * land.at.x_mm, y = land.at.y_mm;
        pad.at = {stamp.at.x_mm + x * c - y * s, stamp.at.y_mm + x * s + y * c};
        pad.side = stamp.side;
        pad.width_mm = upright ? land.height_mm : land.width_mm;
        pad.height_mm = upright ? land.width_mm : land.height_mm;
        pads.push_back(pad);
    }
    return pads;
}

Board boardOf(const Sketch& sketch) {
    Board board;
    board.name = sketch.name;
    board.photos = sketch.photos;
    for (const Stamp& stamp : sketch.stamps) {
        Part part;
        part.designator = stamp.designator;
        part.value = stamp.value;
        part.package = stamp.caseCode;
        part.side = stamp.side;
        part.centre = stamp.at;
        part.rotation_deg = stamp.rotation_deg;
        part.partClass = stamp.partClass;
        part.classByUser = true; // a person stamped it as that
        if (const auto footprint = footprintOf(stamp.caseCode)) {
            part.width_mm = footprint->length_mm;
            part.height_mm = footprint->width_mm;
        }
        part.pads = padsOf(stamp);
        board.parts.push_back(std::move(part));
    }
    const BeepNets nets(sketch);
    BoardBuilder names(board);
    for (Part& part : board.parts)
        for (Pad& pad : part.pads)
            pad.net = names.net(nets.nameOf(part.designator + "." + pad.pin));
    for (const BoardPhoto& photo : sketch.photos)
        if (board.outline.empty()) {
            const double x = photo.low.x_mm, y = photo.low.y_mm, w = photo.width_mm, h = photo.height_mm;
            board.outline = {{x, y}, {x + w, y}, {x + w, y + h}, {x, y + h}};
        }
    completeParts(board);
    return board;
}

} // namespace ustor
