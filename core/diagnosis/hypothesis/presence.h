#pragma once

#include "diagnosis/fact/case_state.h"
#include "diagnosis/hypothesis/fault.h"

#include <span>

namespace ustor {

/// True when the fault was on the board as it stood: its part neither lifted nor unplugged, nor replaced
/// since, nor the part that replaced it. What is off cannot short: a matter of logic.
bool isOn(const Board& board, const PartsOff& stand, const Fault& fault);

/// Each of the faults was on the board both times, or neither time.
bool standAlike(const Board& board, const PartsOff& one, const PartsOff& other,
                std::span<const Fault> faults);

} // namespace ustor
