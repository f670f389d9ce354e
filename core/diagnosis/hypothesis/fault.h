#pragma once

#include "board/board.h"
#include "diagnosis/circuit/board_circuit.h"

#include <string_view>
#include <vector>

namespace ustor {

enum class FaultKind {
    Short,     ///< of a part, from a net to ground or through it from one net to another
    Breakdown, ///< a short that shows only at a voltage above any that a meter puts on
    Open,      ///< a part or its joint that should conduct and does not
    Unlisted,  ///< laminate, solder, or a part that no file lists, from a net to ground
    Dead,      ///< a controller or load that shows nothing without power
    Nothing,   ///< nothing electrical: firmware, a battery, a cable
    Other      ///< something that no hypothesis says
};
std::string_view wordOf(FaultKind kind);

/// One thing that may be wrong with the board.
struct Fault {
    FaultKind kind = FaultKind::Other;
    PartIndex part = -1;
    int generation = 0; ///< of the part: a new one is another part
    int mounting = 0;   ///< above 0: what came with putting it on for that time, its solder or a bad new part
    NetIndex a = -1, b = -1; ///< of what conducts; `b` is -1 for ground. Unlisted: the net
    bool operator==(const Fault&) const = default;

    /// At what a meter puts on.
    bool conducts() const { return kind == FaultKind::Short || kind == FaultKind::Unlisted; }
    /// At the voltage that the rail works at.
    bool conductsUnderPower() const { return conducts() || kind == FaultKind::Breakdown; }
    bool through() const { return kind == FaultKind::Short && b >= 0; }
};

/// How much a short conducts: levels two a decade, and how likely each is for such a part. Capacitors and
/// switches fail to nearly nothing, chips to anything up to a leak (common practice; no published shares).
struct ShortLevel {
    double ohms = 0, share = 0;
};
const std::vector<ShortLevel>& shortLevels(PartClass partClass);

} // namespace ustor
