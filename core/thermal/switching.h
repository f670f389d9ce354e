#pragma once

#include "base/points.h"
#include "thermal/repaired.h"

#include <optional>
#include <vector>

namespace ustor {

/// When a supply without a readback was switched, found from the frames themselves.
struct FoundSwitching {
    std::vector<double> times_s;  ///< on the frames' clock: on, off, on, ...
    std::optional<PixelPoint> at; ///< the place whose course told it; none for beats
    double clearness = 0;         ///< of the step there, in deviations of what is left over; 0 for beats
    /// As if a supply had told it: one watt while on.
    std::vector<SupplySample> supply() const;
};

/// A place that is heated by a power s(t) in {0, 1} answers as c' = (a s - c) / tau + drift; so c + tau c'
/// has two levels. For the liveliest places and some tau the two levels are told apart by the most likely
/// sequence with a price on each change (Viterbi, IEEE Trans. Inf. Theory 13, 1967), the drift taken out
/// between knots. Each edge is then moved to where lags of the power leave least of that place's course.
/// Returns up to `most` sequences that differ, the clearest first: mirrors switch too, and which of them is
/// the supply is told by what follows it elsewhere. Empty where no place has two levels, far enough apart for
/// a chance.
///
/// What people do to the picture in time with nothing at all can still be taken for a switch: a place found
/// with it needs a second look with a supply that tells, or another recording.
/// The same edges by the course of another place: the nearer to the source, the sharper.
void sharpenAt(FoundSwitching& found, PixelPoint place, const RepairedFrames& frames);
std::vector<FoundSwitching> findSwitching(const RepairedFrames& frames, std::size_t most = 3);
/// Beats that a person was given, as sequences to be sharpened: as told, and by usual delays of a hand later
/// (0.2 to 0.6 s, common practice).
std::vector<FoundSwitching> switchingByBeats(const std::vector<Beat>& beats);

} // namespace ustor
