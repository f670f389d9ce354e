#pragma once

#include "base/random.h"
#include "rail/millivolts.h"

#include <map>
#include <string>
#include <vector>

namespace ustor::testing {

/// A rail on which shorts are tried: where the current enters and leaves.
struct TrialRail {
    Board board;
    NetIndex net = 0;
    PadRef inject, minus;
};

/// Two layers of rail with slots and vias, and ground below with slots of its own; sixteen capacitors.
TrialRail slottedPlanes(Random& random);
/// A rail as traces: a trunk with branches of different width, joined to a pour by vias; fourteen capacitors.
TrialRail branchedTraces(Random& random);
/// The nets of a real board that have eight pads or more, largest first.
std::vector<TrialRail> railsOf(const Board& board, std::size_t most);

struct TrialSettings {
    double resolution_v = 1e-5;
    bool copperKnown = true;
    double amps = 2;
    int readings = 6;
};

/// Hits against stated odds.
struct TrialTally {
    int trials = 0, first = 0, amongThree = 0, cannotTell = 0;
    double statedFirst = 0, statedThree = 0;
    struct Bin {
        int count = 0, hits = 0;
        double stated = 0;
    };
    std::map<int, Bin> bins; ///< of every candidate's odds, by tenths
    void add(const MillivoltFinding& found, PartIndex hidden);
    void add(const TrialTally& other);
    std::string row() const;
    /// How far the odds are too sure at worst: stated hits above those found, of first, of the first three
    /// and of each bin with enough in it, in standard deviations of so many trials.
    double mostTooSure() const;
};

/// Shorts at random on one rail. The truth is a finer mesh with a copper of its own: the sheet as a whole off
/// by 15 %, each layer by a further 5 %, plating by 20 %; ground carries the return current; contacts of 5
/// uV. One tally for each of the settings.
std::vector<TrialTally> tryShorts(const TrialRail& rail, const std::vector<TrialSettings>& settings,
                                  int shorts, Random& random);

} // namespace ustor::testing
