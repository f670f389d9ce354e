#pragma once

#include "base/message.h"
#include "injection/outlook.h"

#include <optional>

namespace ustor {

/// One rung: limits for the supply, and pulses of the output.
struct InjectionStep {
    Volts volts;
    Volts overVoltage; ///< trip to be set in the supply: a little above, never above the limit
    Amps amps;
    Seconds on{1.0}, off{1.0};
    int pulses = 10;
    std::optional<StepOutlook> outlook; ///< where the fault's resistance is known
    Message reason;
    double seconds() const { return pulses * (on.value + off.value); }
};

struct InjectionPlan {
    InjectionLimits limits;
    std::vector<InjectionStep> steps;
    std::vector<Message> notes; ///< what to expect, for people
};

enum class School {
    Ladder,     ///< small steps of current at or under 1 V
    FullAtOnce, ///< the limit of the current at once, at or under 1 V
    Climb       ///< when nothing showed: the voltage raised by halves, up to the limit
};

/// Most that a plan puts into a fault while the voltage climbs: enough for any camera, and not yet charring
/// the board (common practice).
constexpr Watts climbWatts{2};

struct PlanRequest {
    Leads leads;
    SupplyRange supply;
    CameraAbility camera;
    std::optional<Ohms> faultResistance; ///< as read by the meter, leads of the meter taken off
    School school = School::Ladder;
};

/// Steps from 0.1 A upwards, each twice the one before: from the first that this camera could see in a small
/// part to the first that it would see in a large one or through the board; or one step at the limit. A run
/// ends by itself when it is certain. The voltage limit starts at 1 V or the binding limit, whichever is
/// lower, and stays there but in the climb, which a person asks for: each of its steps has half as much
/// again, below the limit, with the current held to `climbWatts`.
InjectionPlan planInjection(const Board& board, const Stretch& stretch, const PlanRequest& request);

} // namespace ustor
