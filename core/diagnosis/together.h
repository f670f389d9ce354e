#pragma once

#include "base/message.h"
#include "diagnosis/fact/case_state.h"

namespace ustor {

/// A part that should be replaced or checked along with the culprit, and why (common practice).
struct Together {
    PartIndex part = -1;
    bool replace = true; ///< false: measure it before power
    Message why;
};

/// When a switch of a converter shorts, its controller has often seen the full input voltage: both switches
/// and the controller go together, and the load is checked. A fuse or sense resistor on the way may be a
/// victim.
std::vector<Together> replaceTogether(const Board& board, const std::string& culprit);

} // namespace ustor
