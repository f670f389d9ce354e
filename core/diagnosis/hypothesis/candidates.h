#pragma once

#include "diagnosis/circuit/feed.h"
#include "diagnosis/fact/case_state.h"
#include "diagnosis/hypothesis/fault.h"

#include <vector>

namespace ustor {

/// A fault that the board may have, and how likely it is before any fact of the case.
struct Candidate {
    Fault fault;
    double prior = 0; ///< given that there is exactly one fault; by rework: beside whatever else is wrong
    bool byRework = false; ///< came with the work on this board
};

/// Every single fault of the board that the judge knows of; priors sum to one, but for those that may have
/// come with the work on the board: each part that was put on again may have brought a short with it.
std::vector<Candidate> candidatesOf(const CaseState& state, const BoardCircuit& circuit, const Feed& feed);

/// Shares of the kinds of fault among boards that come to such a bench (common practice, judgement), with
/// `open` the weight of a part to fail open.
struct KindShares {
    /// A part that was put on again, or its solder, shorts (common practice: rare).
    static constexpr double rework = 0.03;
    static constexpr double shorts = 0.725, breakdown = 0.015, unlisted = 0.05, open = 0.07, dead = 0.05,
                            nothing = 0.07, other = 0.02;
};

} // namespace ustor
