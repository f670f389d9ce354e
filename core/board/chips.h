#pragma once

#include "board/board.h"

namespace ustor {

/// A part with functions of its own, that may lie on several rails and take power without a fault.
inline bool isChip(const Part& part) {
    return part.partClass == PartClass::Ic || part.partClass == PartClass::Regulator ||
           part.partClass == PartClass::Processor;
}

} // namespace ustor
