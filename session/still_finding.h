#pragma once

#include "diagnosis/fact/fact.h"
#include "thermal/locate.h"
#include "thermal/still/still.h"

namespace ustor {

/// The spots that stand out of the difference of two stills, on the board where its place is known.
std::vector<LocatedSource> warmerThere(const StillDifference& difference, const Registration* place);

/// What two stills show, as a fact; nothing where none of it has a place. `still`: the warmer one, as the
/// case names it.
std::optional<HeatFound> findingOf(const StillDifference& difference, const Registration& place,
                                   const std::string& still);

} // namespace ustor
