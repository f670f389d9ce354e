#pragma once

#include "base/message.h"
#include "rail/behind.h"

#include <string>
#include <vector>

namespace ustor {

/// Two leads from the supply to the board.
struct Leads {
    int gauge = 18;          ///< AWG
    double length_m = 1.0;   ///< one way
    Ohms contacts{0.01};     ///< clips and joints, both together
    Ohms resistance() const; ///< there and back, contacts included
};

struct SupplyRange {
    Volts volts{30};
    Amps amps{5};
};

/// One bound and the sentence why it is there.
struct Bound {
    double value = 0; ///< volts or amps
    Message reason;
};

/// What may never be exceeded on a stretch; the first of each list is the one that binds.
struct InjectionLimits {
    Volts volts;
    Amps amps;
    std::vector<Bound> voltBounds, ampBounds; ///< tightest first
};

/// Highest voltage where the rail is unknown or a processor may hang behind a shorted switch (common
/// practice).
constexpr Volts carefulVolts{1.3};

/// Limits for a stretch: never above its own lowest working voltage, nor above that of any rail one switch
/// behind it; at most 1.3 V, or the core's own working voltage where that is lower, where a rail is unknown
/// or a processor hangs on it; the current by supply, leads and small links.
InjectionLimits injectionLimits(const Board& board, const Stretch& stretch, const Leads& leads,
                                const SupplyRange& supply);

} // namespace ustor
