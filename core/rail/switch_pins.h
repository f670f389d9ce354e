#pragma once

#include "rail/net_parts.h"

#include <vector>

namespace ustor {

/// The nets between which a switch conducts, and the one that steers it.
struct SwitchPins {
    std::vector<NetIndex>
        power;             ///< in the order of the pads, ground among them; two for a switch that is sound
    NetIndex control = -1; ///< -1 where none is told apart
};

/// Of a transistor with three nets the control pin is the one called G or B; where pins have no such names,
/// the net that the fewest of its pads lie on, of those alike the one that the fewest parts are on: drain and
/// source carry the current over several pads and to several parts (common practice). With two nets both
/// carry power.
SwitchPins switchPinsOf(const Board& board, const NetParts& parts, PartIndex which);

} // namespace ustor
