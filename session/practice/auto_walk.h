#pragma once

#include "base/message.h"
#include "session/bench_link.h"
#include "session/case_session.h"
#include "session/practice/hands.h"
#include "thermal/registration.h"

#include <QString>
#include <functional>

namespace ustor {

/// What an automatic walk came to.
struct WalkResult {
    bool finished = false; ///< false: `trouble` says why
    Message trouble;
    std::vector<Message> brokenOff; ///< injections that broke off and were begun anew, and why
    std::string hidden;             ///< what was hidden, revealed at the end
    double hiddenOhms = 0;
    int rank =
        0; ///< place of the hidden part among the suspects before anything was lifted; 0: not among them
    double odds = 0;                                   ///< its odds then
    std::vector<std::pair<std::string, double>> first; ///< the first suspects then
    std::string hottestPixel; ///< what the hottest pixel of the last powered picture would have chosen
    std::string heatVerdict;
    double injectedWatts = 0, faultAmps = 0;
    int lifted = 0;
    std::string culprit; ///< proven by lifting, when the walk goes on to its end
    double benchSeconds = 0;
};

struct WalkSettings {
    bool toTheEnd = false;  ///< lift, prove and close, not only rank
    std::uint64_t seed = 1; ///< of the click noise
    double clickNoise_px = 0.4;
    std::function<void(const Message&)> tell = [](const Message&) {};
};

/// Walks a case on a simulated bench as the next moves suggest: measure every rail, inject into the one that
/// is down, watch, turn the board where it helps, rank; then, if asked, lift, measure, replace, prove, close.
/// Blocks, running the event loop; for command line and tests.
WalkResult autoWalk(CaseSession& session, BenchLink& bench, Hands& hands, const WalkSettings& settings);

/// Four to six landmarks as a careful person would click them.
Result<Registration> clickLandmarks(const Board& board, Hands& hands, Side side, double noise_px,
                                    std::uint64_t seed);

} // namespace ustor
