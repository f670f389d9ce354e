#pragma once

#include "diagnosis/case_state.h"
#include "diagnosis/circuit/feed.h"
#include "diagnosis/evidence/item.h"

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

/// How a rail stands with the power on.
enum class Level { Absent, Low, Present };
struct LevelShares {
    double absent, low, present;
    double of(Level level) const {
        return level == Level::Absent ? absent : level == Level::Low ? low : present;
    }
};
LevelShares levelShares(int rail, std::span<const Fault> faults, const CaseState& state, const PartsOff& then,
                        const BoardCircuit& circuit, const Feed& feed);

/// Volts read with the power on: which rails come up, which stay away, which are folded back. A rail is there
/// when nothing on its way is open, dead or shorted, and it is not itself; a derived one may be waiting to be
/// enabled (common practice).
std::vector<EvidenceItem> voltsEvidence(const CaseState& state, const BoardCircuit& circuit,
                                        const Feed& feed);

} // namespace ustor
