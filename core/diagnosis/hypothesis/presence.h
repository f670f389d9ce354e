#pragma once

#include "diagnosis/fact/case_state.h"
#include "diagnosis/hypothesis/fault.h"

namespace ustor {

/// True when the fault was on the board as it stood: its part neither lifted nor unplugged, nor replaced
/// since, nor the part that replaced it. What is off cannot short: a matter of logic.
bool isOn(const Board& board, const PartsOff& stand, const Fault& fault);

} // namespace ustor
