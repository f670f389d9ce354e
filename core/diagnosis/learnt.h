#pragma once

#include "diagnosis/belief/belief.h"
#include "diagnosis/fact/fact.h"

#include <vector>

namespace ustor {

/// What was believed just before a part came off.
struct BeforeLift {
    BeforeLift(long liftedBy, PartIndex lifted, std::vector<Fact> until, const Belief& belief);

    long fact; ///< of the part that came off
    PartIndex part;
    std::vector<Fact> facts; ///< before it, that the belief follows from
    double doubt_bits;
    std::vector<double> cause; ///< by part, as in Belief
};

/// What the facts taught since a part came off, that one among them.
struct Learnt {
    struct Shift {
        PartIndex part;
        double before, after; ///< that it is a cause
    };
    long fact = 0;   ///< of the part that came off; 0 where none did
    double bits = 0; ///< by which the doubt fell; below 0 where it grew
    /// The part that came off, then the others that moved most; those that hardly moved are left out. Empty
    /// where nothing moved.
    std::vector<Shift> shifts;
};

/// Entropy (Shannon) over the hypotheses.
double doubtIn_bits(const Belief& belief);

Learnt learntSince(const BeforeLift& before, const Belief& now);

/// The newest fact that took a part off and counts; none where nothing was taken off.
const Fact* newestLift(const std::vector<Fact>& facts);

} // namespace ustor
