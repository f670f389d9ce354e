#pragma once

#include "diagnosis/assess.h"
#include "worlds/other_bench.h"

#include <functional>
#include <string>

namespace ustor::testing {

/// How a hunt went.
struct PlayResult {
    bool repairable = false, mended = false, closedFixed = false, ended = false;
    std::string end; ///< as the judge called it
    int lifts = 0, needless = 0, injections = 0;
    std::optional<bool> firstLiftGuilty;
    double minutes = 0;
    int steps = 0;
    std::string story;
    bool leftInside() const { return closedFixed && !mended; }
};

/// What the judge was sure of at some moment, and whether it was so.
struct StatedOdds {
    double odds = 0;
    bool guilty = false;
    enum class When { FirstLift, Middle, End } when = When::Middle;
};

struct PlaySettings {
    Knowledge knowledge;
    std::function<void(const std::string&)> tell = {}; ///< each move and its fact
    std::function<void(const StatedOdds&)> stated = {};
    int mostSteps = 120;
};

/// Follows the first move of the judge to the letter until it says that this is the end.
PlayResult play(OtherBench& bench, const PlaySettings& settings);

} // namespace ustor::testing
