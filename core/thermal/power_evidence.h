#pragma once

#include "thermal/sources.h"

namespace ustor {

/// How surely the power explains what a spot does, and no baseline or other pulses: the mean of its middle
/// less that of what is around it, for the best of some sizes (see `StepResponse::slowOverChance`). Wide:
/// heat that may come late; of pixels that are quiet.
double evidenceOfWide(const StepResponse& response, const HeatSource& spot);
/// What chance hardly reaches: F(3, 12) is above this once in six thousand times.
constexpr double leastOfWide = 16;

/// The same for a small part that answers at once (see `StepResponse::quickOverChance`); infinite where it
/// was covered for a while and cannot be asked. `weight`: of each pixel, 1 / variance (see `SpotBand`).
double evidenceOfPart(const StepResponse& response, const HeatSource& spot, const cv::Mat& weight);
/// F(1, 12) is above this once in two hundred times: asked besides the signal to noise.
constexpr double leastOfPart = 12;

} // namespace ustor
