#pragma once

#include "diagnosis/evidence/item.h"
#include "diagnosis/fact/case_state.h"

#include <vector>

namespace ustor {

/// What the eye found on parts: likelihoods on a cause, on a victim of a short behind it, on an innocent
/// part. A burnt fuse says "look behind", a cracked capacitor "maybe I" (common practice).
std::vector<EvidenceItem> seenEvidence(const CaseState& state, const BoardCircuit& circuit);

/// Parts that were measured off the board.
std::vector<EvidenceItem> measuredEvidence(const CaseState& state);

} // namespace ustor
