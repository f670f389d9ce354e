#pragma once

#include "base/message.h"
#include "injection/limits.h"

#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace ustor {

struct CameraAbility {
    double netd_mk = 60;
    double frameRate_hz = 25;
};

/// Watts in the fault that this camera sees with certainty after a number of seconds of pulses at half duty:
/// the difference of on and off means has the deviation 2 sigma / sqrt(N) a pixel; a small part rises some 60
/// K/W within half a second on a dense board (order of magnitude) and covers about four pixels; six
/// deviations are asked.
Watts wattsToSee(const CameraAbility& camera, double seconds);
/// The same the other way round: seconds of pulses until so many watts are seen.
Seconds secondsToSee(const CameraAbility& camera, Watts watts);

/// What to expect of one setting of the supply.
struct StepOutlook {
    Amps flows; ///< under both limits of the supply
    Watts inFault, inLeads;
    double faultRise_k = 0;                            ///< of a small part
    double leadRise_k = 0;                             ///< of the leads' insulation once they are steady
    std::vector<std::pair<std::string, double>> links; ///< parts on the way, and by how many kelvin they warm
    Seconds untilSeen;
};

/// I = min(limit, U / R) around the loop of fault and leads, I^2 R into each. A small part warms by 60 K/W, a
/// lead by its watts over its surface at 12 W/(m^2 K); a link has what its value says, or what is usual for
/// its class (order of magnitude, common practice).
StepOutlook outlookOf(const Board& board, const Stretch& stretch, const Leads& leads,
                      const CameraAbility& camera, Ohms fault, Volts volts, Amps amps);

/// In words for people.
Message sentenceOf(const StepOutlook& outlook);

} // namespace ustor
