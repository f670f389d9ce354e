#pragma once

#include "base/message.h"
#include "diagnosis/suspects.h"

namespace ustor {

/// What can be unplugged at a connector of the stretch: the quickest way to halve a doubt.
struct UnplugChoice {
    PartIndex connector = -1;
    double odds = 0; ///< that the short hangs there
};

/// One way to part a stretch: the links that have to be lifted (one, or those side by side), and what lies on
/// either side then.
struct SplitChoice {
    std::vector<PartIndex> links;
    Stretch near, far;                ///< `near` holds the rail that was chosen, where one was
    std::string placeNear, placeFar;  ///< where to measure
    double oddsNear = 0, oddsFar = 0; ///< that the short is there, of the listed suspects
    double minutes = 0;
    double gainBits = 0; ///< entropy of the two outcomes: a perfect test
    double worth() const { return gainBits / minutes; }
};

/// Connectors whose cable or card is still in, most likely first.
std::vector<UnplugChoice> unplugChoices(const CaseState& state, const Stretch& stretch,
                                        const std::vector<Suspect>& suspects);

/// All single places where lifting parts the stretch in two with suspects on both sides, most worth per
/// minute first. A part on both sides counts half on each.
std::vector<SplitChoice> splitChoices(const CaseState& state, const Stretch& stretch, const LinkState& links,
                                      const std::vector<Suspect>& suspects);

/// What either outcome of a split means, told before it is done.
Message outcomesOf(const Board& board, const SplitChoice& split);

/// The pieces of a rail as lifted links leave them, and what the readings since say of each.
struct RailPieces {
    std::vector<Stretch> pieces;
    std::vector<RailState> states; ///< newest reading since the links were lifted; Unknown without one
    /// The piece to hunt on: one that reads down, else one not read yet, else the first.
    std::size_t suspected() const;
};

/// `whole` is the stretch with every link in place.
RailPieces railPieces(const CaseState& state, const Stretch& whole, const LinkState& links);

} // namespace ustor
