#pragma once

#include "diagnosis/case_state.h"
#include "diagnosis/circuit/feed.h"
#include "diagnosis/evidence/item.h"

#include <vector>

namespace ustor {

/// What a source shows at the first plug-in, as the trade tells it apart.
enum class PlugIn {
    Collapses,    ///< in its limit, and the voltage down to a volt or so
    Sags,         ///< in its limit, the voltage well below its own
    TakesNothing, ///< its full voltage, no current
    StaysLow,     ///< a negotiating source stays at 5 V, some hundredths of an ampere
    StaysTaking,  ///< stays at 5 V with some tenths
    Pulses,       ///< on a steady beat
    Starts,       ///< its full voltage, tenths of an ampere
    TakesMuch     ///< its full voltage, an ampere and more
};
PlugIn plugInOf(const SourceShows& shows);
Message labelOf(PlugIn plugIn);

/// Where on the way of the power the fault is likely to be, from what the source shows (table of likelihoods,
/// common practice).
std::vector<EvidenceItem> sourceEvidence(const CaseState& state, const BoardCircuit& circuit,
                                         const Feed& feed);

/// Volts read with the power on: which rails come up, which stay away, which are folded back. A rail is there
/// when nothing on its way is open, dead or shorted, and it is not itself; a derived one may be waiting to be
/// enabled (common practice).
std::vector<EvidenceItem> voltsEvidence(const CaseState& state, const BoardCircuit& circuit,
                                        const Feed& feed);

} // namespace ustor
