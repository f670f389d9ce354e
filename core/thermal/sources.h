#pragma once

#include "base/points.h"
#include "thermal/spot_band.h"
#include "thermal/step_response.h"

#include <opencv2/core.hpp>
#include <vector>

namespace ustor {

/// One warm spot in a response map.
struct HeatSource {
    PixelPoint at;
    double sigma_px = 0;     ///< standard deviation of the place, each axis
    double width_px = 0;     ///< standard deviation of the fitted spot
    double rise_k_per_w = 0; ///< height of the fitted spot above its surroundings
    double snr = 0;          ///< of the matched filter at the peak
};

/// Whether a fitted spot has an end: at the widest that its scale can tell it is a slope, no spot.
bool hasEnd(const HeatSource& spot, const SpotScale& scale);

/// What the same pixels show of pulses that never were, in units of camera noise: maps of deviation 1 where
/// there is nothing else.
using ChanceMaps = std::vector<cv::Mat>;

/// What chance makes of a picture at one scale; asked once for all instants.
struct ChanceFloor {
    SpotBand band;     ///< that is searched
    cv::Mat deviation; ///< of the band, in units of camera noise
};
/// `quiet`: pixels that count (see `StepResponse::quiet`), or empty for all; where few do, nothing is found.
ChanceFloor floorFrom(const ChanceMaps& chance, cv::Size size, const SpotScale& scale = SpotScale::near(),
                      const cv::Mat& quiet = {});

/// Finds spots in a response map and fits each with a round Gaussian on a flat ground by least squares.
/// Pixels that show more than camera noise in the chance maps count less, by its square; and a spot must
/// stand out of what the same filter finds there in the chance maps, for reflections do not average out over
/// a pad as noise does. The place's standard deviation is the fit's Fisher information under white noise of
/// `sigma` (Kay, Estimation Theory: variance >= sigma^2 / sum (dA/dx)^2), widened where the residual exceeds
/// that noise. Strongest first by signal to noise; spots closer than three times the spot's scale to a
/// stronger one are part of it. Pixels not seen throughout count less by their own variance.
std::vector<HeatSource> findSources(const StepResponse::Maps& maps, const ChanceFloor& floor, double leastSnr,
                                    int most);

} // namespace ustor
