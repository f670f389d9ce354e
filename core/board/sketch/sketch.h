#pragma once

#include "base/result.h"
#include "board/board.h"

#include <map>
#include <string>
#include <vector>

namespace ustor {

/// A part as a person stamped it onto a photo.
struct Stamp {
    std::string designator, caseCode, value;
    PartClass partClass = PartClass::Other;
    Side side = Side::Top;
    BoardPoint at;
    double rotation_deg = 0; ///< anticlockwise, seen from the top
};

/// One answer of the continuity test: this pad with that.
struct Beep {
    std::string a, b; ///< places, "C12.1"
    bool connected = false;
};

/// A board made without any file: photos, stamps, beeps. All else follows from them.
struct Sketch {
    std::string name;
    std::vector<BoardPhoto> photos;
    std::vector<Stamp> stamps;
    std::vector<Beep> beeps;
    std::map<std::string, std::string> names; ///< of nets, by one of their places: "J1.2" is "GND"
};

/// Puts a part down, with the next free designator of its class. Error when the case is not known.
Result<std::string> stamp(Sketch& sketch, PartClass partClass, const std::string& caseCode, Side side,
                          BoardPoint at, double rotation_deg);

/// The pads of a stamp on the board.
std::vector<Pad> padsOf(const Stamp& stamp);

/// The board that a sketch stands for: nets are what beeps join; those with a name take it, others are called
/// by their first pad. A pad alone is a net of its own, called by its place.
Board boardOf(const Sketch& sketch);

/// "ustor-sketch/1" (docs/formats/sketch.schema.json).
std::string sketchToJson(const Sketch& sketch);
Result<Sketch> sketchFromJson(std::string_view text, std::string_view fileName);

} // namespace ustor
