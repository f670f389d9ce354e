#pragma once

#include "thermal/sources.h"

#include <optional>

namespace ustor {

/// A place where heat gathered, and how surely it was the power (see `evidenceOfWide`).
struct GatheredHeat {
    HeatSource spot;
    double evidence = 0;
};

/// The place where heat gathered while the power came and went. What crosses the board hardly follows single
/// pulses, but it stays: after half a minute it stands higher than anything a pulse makes. What mirrors share
/// is taken out of every pixel, and mirrors themselves do not count (see `StepResponse::quiet`); what is left
/// of a picture without heat is camera noise. Nothing where no place stands out and follows the power, or
/// where too little time went by to tell what gathers from what moves.
std::optional<GatheredHeat> gatheredHeat(const StepResponse& response);

} // namespace ustor
