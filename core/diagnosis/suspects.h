#pragma once

#include "base/message.h"
#include "diagnosis/belief/belief.h"
#include "diagnosis/fact/case_state.h"
#include "diagnosis/rail_rules.h"

namespace ustor {

struct Suspect {
    PartIndex part = -1; ///< -1: no part of the list (laminate, solder, an unlisted part, nothing electrical)
    double odds = 0;     ///< that it is the cause, or one of them
    bool off = false;    ///< not on the board now: unsoldered, or its plug is out
    bool cleared = false; ///< it was off, the short stayed, and no second one makes it likely all the same
    /// Of the likeliest hypothesis in which it is the cause: they add up to the logarithm of that one's odds.
    std::vector<Weight> evidence;
};

/// The parts that could be what is wrong with the stretch, likeliest first, cleared ones last. While the
/// rail reads down without them, parts that are off stand behind those that are on: one of these is what is
/// left.
std::vector<Suspect> suspectsOf(const CaseState& state, const Stretch& stretch, const Belief& belief);

/// The newest judged state of the stretch as it stands now, from readings on any of its nets; Unknown without
/// one. `sinceLift` tells whether the newest reading was taken with just the parts off that are off now.
struct StretchReading {
    RailRuling ruling;
    bool sinceLift = false;
    long fact = 0;
    std::optional<double> ohms;
};
StretchReading newestReading(const CaseState& state, const Stretch& stretch);

/// How sure it is that something still shorts a rail of the board as it stands now.
double stillShorted(const CaseState& state, const Belief& belief);

} // namespace ustor
