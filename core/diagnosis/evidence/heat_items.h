#pragma once

#include "diagnosis/evidence/item.h"
#include "diagnosis/fact/case_state.h"

#include <vector>

namespace ustor {

/// What the camera found, one item a side: several looks at one side through one registration share their
/// errors, so the clearest counts. Stills only where no injection was watched. A fault that had no power in
/// it (off the board then, or on another rail than the one injected into) cannot have warmed; what was seen
/// came from the path or from nowhere. "None" and "spread" count as well: how often a camera sees such a
/// fault, or does not.
std::vector<EvidenceItem> heatEvidence(const CaseState& state, const BoardCircuit& circuit);

} // namespace ustor
