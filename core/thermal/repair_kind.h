#pragma once

#include "base/message.h"
#include <optional>
#include <set>
#include <string>
#include <string_view>
#include <vector>

namespace ustor {

/// What is mended in a stream before it is looked at. Each can be left out, to see what it does.
enum class Repair {
    Frozen,   ///< pictures that stand still while the shutter is closed are left out
    Motion,   ///< a camera that moves is followed, its pictures moved back
    Common,   ///< offsets, jumps and drift of the whole picture are taken out
    Passing,  ///< hands, sleeves and tools do not count where and while they are in the picture
    Clocks,   ///< the supply's clock is brought to the frames'
    Bending,  ///< a baseline that bends: slow drift of places, hot-air heat that decays
    Restless, ///< places that show more than noise of pulses that never were count less
    Mirrors   ///< what mirrors share is taken out of what comes late, and mirrors do not count in it
};
/// The word on the command line: "frozen", "motion" and so on.
std::string_view wordOf(Repair repair);
std::optional<Repair> repairFromWord(std::string_view word);
const std::vector<Repair>& allRepairs();

/// Those that are left out.
using LeftOut = std::set<Repair>;

/// What one of them did, for people.
struct RepairNote {
    Repair repair;
    Message said;
};

} // namespace ustor
