#pragma once

#include "thermal/sources.h"

#include <optional>

namespace ustor {

/// How surely the power explains what a wide spot does, and no smooth course or other pulses: the mean of its
/// middle less that of what is around it, for the best of some sizes (see `StepResponse::powerOverChance`).
double evidenceOfPower(const StepResponse& response, const HeatSource& spot);
/// What chance hardly reaches: F(3, 12) is above this once in six thousand times.
constexpr double leastEvidence = 16;

/// The place where heat gathered while the power came and went. What crosses the board hardly follows single
/// pulses, but it stays: after half a minute it stands higher than anything a pulse makes. What mirrors share
/// is taken out of every pixel, and mirrors themselves do not count (see `StepResponse::quiet`); what is left
/// of a picture without heat is camera noise. Nothing where no place stands out and follows the power, or
/// where too little time went by to tell what gathers from what moves.
struct GatheredHeat {
    HeatSource spot;
    double evidence = 0; ///< of the power
};
std::optional<GatheredHeat> gatheredHeat(const StepResponse& response);

} // namespace ustor
