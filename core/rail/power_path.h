#pragma once

#include "base/message.h"
#include "rail/converters.h"
#include "rail/stretch.h"

#include <vector>

namespace ustor {

enum class StepKind { Link, Switch, Converter, Linear };
std::string_view wordOf(StepKind kind);
Message labelOf(StepKind kind);

/// One place of the way that power goes: a net, or several that share everything.
struct PathPlace {
    NetIndex net = -1;
    bool source = false; ///< power comes onto the board here
    std::vector<PartIndex> connectors;
    std::vector<PartIndex> suspects; ///< parts to ground on this net
    int column = 0, row = 0;         ///< for drawing: from the source to the loads
};

/// What leads from one place to the next.
struct PathStep {
    int from = -1, to = -1; ///< indices of places
    StepKind kind = StepKind::Link;
    std::vector<PartIndex> parts; ///< all that carry the current, controller included
    bool cut = false;             ///< a part of it is lifted
};

/// The way of the power from the connectors through fuses, switches, sense resistors and converters to each
/// rail. Switch nodes are part of their converter's step. Columns rise along each step; places of a column
/// are in order of what feeds them.
struct PowerPath {
    std::vector<PathPlace> places;
    std::vector<PathStep> steps;
    int placeOf(NetIndex net) const; ///< -1 when the net is not on the path
};

PowerPath powerPath(const Board& board, const LinkState& state = {});

} // namespace ustor
