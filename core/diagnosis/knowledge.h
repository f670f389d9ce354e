#pragma once

#include "diagnosis/known_good.h"
#include "diagnosis/moves/fee.h"
#include "diagnosis/work_pace.h"

namespace ustor {

/// What stands on the bench beside the meter; moves that need what is not there are not offered.
struct Tools {
    bool supply = true, camera = true, millivolts = true;
};

/// What is known about such boards before a case starts, and about the shop.
struct Knowledge {
    KnownGoodSet knownGood; ///< of the board's model; empty without one
    Tools tools;
    Fee fee;
    WorkPace pace; ///< of the shop, by the trails of its other cases

    /// Relative weight of one part of a class to be the short (common practice: ceramic capacitors first by
    /// number, switches and chips by stress; no published figures exist).
    static double classWeight(PartClass partClass);
    /// Minutes to lift and refit a part of a class (common practice: capacitor 2, small switch 4, big chip
    /// 20).
    static double minutesToLift(PartClass partClass);
    /// Share of shorted parts of a kind that show it to the eye (common practice).
    static constexpr double visibleShare = 0.25;
};

} // namespace ustor
