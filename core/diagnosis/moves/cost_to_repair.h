#pragma once

#include "diagnosis/belief/belief.h"
#include "diagnosis/case_state.h"

#include <vector>

namespace ustor {

/// One thing that may end the hunt: how sure, and what trying it costs.
struct Trial {
    double odds = 0;
    double minutes = 0;
};

/// Expected minutes of trying one after the other until the fault is found, in the order that costs least:
/// falling odds per minute (provable by exchange; Heckerman, Breese, Rommelse, Communications of the ACM 38,
/// 1995 [memory]). What none of them finds costs `otherwise` on top; a trial that promises less than it costs
/// is left out. Odds that sum to more than one are scaled.
double expectedMinutes(std::vector<Trial> trials, double otherwise);

/// The expected cost to repair of a belief: lifting part after part, each measured after. Minutes by kind of
/// part are common practice; a cause that no part is costs `unlistedMinutes`.
double minutesToRepair(const CaseState& state, const Belief& belief);

/// What it costs to go on when no part of the list is the cause (judgement): the laminate, or a search
/// without a short.
constexpr double unlistedMinutes = 45;

} // namespace ustor
