#pragma once

#include "worlds/player.h"

namespace ustor::testing {

/// How people hunt by habit (common practice: "the capacitor first, always", "it is nearly always the chip",
/// "inject at once and lift what is warm").
enum class Habit { CapacitorsFirst, ChipsFirst, LiftTheWarmest };
const char* nameOf(Habit habit);

/// A person who keeps to one habit: reads every rail, takes the lowest that the rule of thumb calls short,
/// lifts by the habit and reads after each lift, puts back what was innocent, replaces what was it, goes on
/// with the next rail, and closes as fixed only what starts. Gives up after so many lifts or minutes.
PlayResult playByHabit(OtherBench& bench, Habit habit);

} // namespace ustor::testing
