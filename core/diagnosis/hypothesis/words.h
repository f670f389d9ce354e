#pragma once

#include "base/message.h"
#include "diagnosis/hypothesis/fault.h"

#include <span>

namespace ustor {

/// For people: "C31 is shorted", "Q4 is punched through from VIN to +5V and U3 is dead".
Message sentenceOf(const Board& board, std::span<const Fault> faults);

} // namespace ustor
