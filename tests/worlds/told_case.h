#pragma once

#include "worlds/other_bench.h"

#include <array>
#include <string>

namespace ustor::testing {

/// What the judge said of one board at three moments of a hunt that goes the same way for all: plugged in and
/// every rail read once; the rail that is down looked at from both sides while current flows; the likeliest
/// part lifted and its rail read again.
struct ToldCase {
    enum When { Read, Looked, Lifted };
    static constexpr std::size_t whens = 3;
    struct Said {
        double odds = 0; ///< of the likeliest part
        bool so = false; ///< it was one of the causes
    };
    std::string kind; ///< of what was wrong
    std::array<Said, whens> said;
    bool amongTwo = false;  ///< a cause, when it had been looked at
    bool hasCulprit = true; ///< one of the parts is to blame
    double bestByMeter = 0; ///< OtherBench::bestGuessByMeter
};

ToldCase tellCase(OtherBench& bench, Random& random, bool meterOnly);

/// "capacitor", "switch", "two faults" and so on.
std::string kindOfFaults(const OtherBench& bench);

/// Shares of parts and kinds up to so many times what this world has, each by itself.
WorldStatistics shiftedStatistics(Random& random, double times);

} // namespace ustor::testing
