#pragma once

#include "diagnosis/circuit/feed.h"
#include "diagnosis/evidence/item.h"
#include "diagnosis/fact/case_state.h"

#include <vector>

namespace ustor {

/// What the eye found on parts: likelihoods on a cause, on a victim of a short behind it, on an innocent
/// part. A burnt fuse says "look behind", a cracked capacitor "maybe I" (common practice). State, circuit and
/// feed must outlive the items.
std::vector<EvidenceItem> seenEvidence(const CaseState& state, const BoardCircuit& circuit, const Feed& feed);

/// Parts that were measured off the board.
std::vector<EvidenceItem> measuredEvidence(const CaseState& state);

} // namespace ustor
