#pragma once

#include "diagnosis/circuit/board_circuit.h"
#include "diagnosis/evidence/item.h"
#include "diagnosis/fact/case_state.h"

#include <vector>

namespace ustor {

/// That a part which breaks down somewhere up to the working voltage of its rail conducts at so many volts:
/// where it begins to nobody knows, evenly on a logarithmic scale.
double conductsAt(const Board& board, const Fault& fault, double volts);

/// What a supply shows at an injection above the volts at which chips stay asleep, and below those at
/// which the rail or converters behind it work: a current that no chip takes says that something conducts
/// there, and with a rail that read free without power, that it does so only at a voltage (common practice).
std::vector<EvidenceItem> supplyEvidence(const CaseState& state, const BoardCircuit& circuit);

} // namespace ustor
