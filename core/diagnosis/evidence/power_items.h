#pragma once

#include "diagnosis/circuit/feed.h"
#include "diagnosis/evidence/item.h"
#include "diagnosis/fact/case_state.h"

#include <array>
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
    TakesSome,    ///< its full voltage, tenths of an ampere
    TakesMuch,    ///< its full voltage, an ampere and more
    Starts        ///< the board starts
};
constexpr std::size_t plugIns = 9;
PlugIn plugInOf(const SourceShows& shows);
Message labelOf(PlugIn plugIn);

/// By `PlugIn`: how likely the source shows so with these faults on the board as it stood (common practice).
using PlugInShares = std::array<double, plugIns>;
PlugInShares plugInShares(std::span<const Fault> faults, const CaseState& state, const PartsOff& then,
                          const BoardCircuit& circuit, const Feed& feed);

/// Where on the way of the power the fault is likely to be, from what the source shows each time that power
/// was put on (table of likelihoods, common practice).
std::vector<EvidenceItem> sourceEvidence(const CaseState& state, const BoardCircuit& circuit,
                                         const Feed& feed);

} // namespace ustor
