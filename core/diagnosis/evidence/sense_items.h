#pragma once

#include "diagnosis/evidence/item.h"
#include "diagnosis/fact/case_state.h"

#include <vector>

namespace ustor {

/// What showed warmth beside an aligned camera: alcohol, frost, a finger, a picture judged by eye, a flare
/// with each try of a converter, a part hot at idle. Coarse: the culprit itself, its neighbours within some
/// millimetres, parts in the path (common practice).
std::vector<EvidenceItem> sensedEvidence(const CaseState& state, const BoardCircuit& circuit);

/// A spark, smoke or a pop at a place: on the cause, on what it took with it, on an innocent part.
std::vector<EvidenceItem> burstEvidence(const CaseState& state);

/// Damage of the board itself at a place: laminate, pads, dirt between parts.
std::vector<EvidenceItem> boardSeenEvidence(const CaseState& state, const BoardCircuit& circuit);

} // namespace ustor
