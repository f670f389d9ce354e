#pragma once

#include "diagnosis/known_good.h"

#include <map>

namespace ustor {

/// What is known about such boards before a case starts: how often a class of part turns out to be the short,
/// as counts that one case cannot overturn (Beta(1 + hits, 1 + misses)-like updates on top of common
/// practice).
struct Knowledge {
    struct Count {
        double hits = 0, misses = 0;
    };
    std::map<PartClass, Count> byClass; ///< from a shop's own proven repairs
    KnownGoodSet knownGood;             ///< of the board's model; empty without one

    /// Relative weight of one part of a class to be the short; common practice blended with the counts.
    double classWeight(PartClass partClass) const;
    /// Minutes to lift and refit a part of a class (common practice: capacitor 2, small switch 4, big chip
    /// 20).
    static double minutesToLift(PartClass partClass);
    /// Share of shorted parts of a kind that show it to the eye (common practice).
    static constexpr double visibleShare = 0.25;
};

} // namespace ustor
