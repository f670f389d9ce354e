#pragma once

#include "base/message.h"
#include "base/points.h"
#include "base/side.h"
#include "base/units.h"
#include "board/board_photo.h"
#include "board/copper.h"
#include "board/part_class.h"

#include <array>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace ustor {

/// Index of a net or a part in its board; -1 where there is none.
using NetIndex = int;
using PartIndex = int;

struct Pad {
    std::string pin;
    BoardPoint at;
    NetIndex net = -1;
    Side side = Side::Top;
    bool through = false;
    double width_mm = 0, height_mm = 0; ///< 0 when the file does not say
    double hole_mm = 0;                 ///< finished hole of a through pad
};

struct Part {
    std::string designator, value, package;
    Side side = Side::Top;
    BoardPoint centre;
    double rotation_deg = 0; ///< anticlockwise, seen from the top
    PartClass partClass = PartClass::Other;
    bool classByUser = false;           ///< a person set the class: no guess replaces it
    double width_mm = 0, height_mm = 0; ///< body, before rotation; 0 when not known
    std::vector<Pad> pads;
};

/// The corners of a part's body on the board, going round it.
std::array<BoardPoint, 4> cornersOf(const Part& part);

struct Net {
    std::string name;
    bool ground = false;
    std::optional<Volts> nominal; ///< working voltage, where it is known
    bool nominalByUser = false;
};

struct Via {
    BoardPoint at;
    NetIndex net = -1;
    double hole_mm = 0;
};

/// A warning of a reader: where in which file, and what was done about it.
struct BoardWarning {
    std::string where;
    Message what;
};

/// A pad named by part and index.
struct PadRef {
    PartIndex part = -1;
    int pad = -1;
    bool operator==(const PadRef&) const = default;
};

struct BoardBox {
    BoardPoint low, high;
    double width_mm() const { return high.x_mm - low.x_mm; }
    double height_mm() const { return high.y_mm - low.y_mm; }
};

/// Parts, pads and nets of one board in one frame: millimetres, seen from the top, y up.
struct Board {
    std::string name;
    std::vector<BoardPoint> outline; ///< closed polygon; empty when no file gives it
    double thickness_mm = 1.6;
    int copperLayers = 0; ///< 0 when not known
    std::vector<Part> parts;
    std::vector<Net> nets;
    std::vector<Via> vias;
    std::vector<CopperLayer> copper; ///< top to bottom; empty when no file gives it
    std::vector<BoardPhoto> photos;  ///< backgrounds; one a side at most
    std::vector<BoardWarning> warnings;

    PartIndex findPart(std::string_view designator) const; ///< any case; -1 when there is none
    NetIndex findNet(std::string_view name) const;         ///< exact, else any case; -1 when there is none
    /// The pad called "C12.1", or the first ground or rail pad for a bare designator; nothing when there is
    /// none.
    std::optional<PadRef> findPad(std::string_view place) const;
    const Pad& pad(PadRef ref) const { return parts[ref.part].pads[ref.pad]; }
    std::string placeOf(PadRef ref) const; ///< "C12.1"
    std::vector<PadRef> padsOf(NetIndex net) const;
    /// True when one pad or more of the part lies on the net.
    bool touches(PartIndex part, NetIndex net) const;
    BoardBox box() const; ///< of the outline, or of pads and parts with a margin
};

} // namespace ustor
