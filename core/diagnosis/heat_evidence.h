#pragma once

#include "diagnosis/fact/fact.h"

namespace ustor {

/// Likelihood density (per mm^2) of the spots found, if this part were the short: the heat arises somewhere
/// in the part's body, evenly, and is seen with the spot's Gaussian doubt; a share of findings, larger for
/// faint spots, comes from something else anywhere on the board. A spot on a link of the rail is expected
/// from the current alone and counts little. What two stills show is worth far less: it may be a hand or
/// hot-air heat, and those are on suspects more than anywhere. Integrated in closed form over the body turned
/// into the part's own axes.
double heatDensity_per_mm2(const HeatFound& heat, const Part& part, const std::vector<const Part*>& links,
                           double boardArea_mm2);

/// True when a spot lies on (or within its doubt of) the part's body.
bool spotOnPart(const HeatSpot& spot, const Part& part);

} // namespace ustor
