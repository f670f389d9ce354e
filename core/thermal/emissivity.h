#pragma once

#include "board/board.h"
#include "thermal/registration.h"

#include <opencv2/core.hpp>

namespace ustor {

/// Radiance of a black body between 8 and 14 micrometres, W/(m^2 sr): the integral of Planck's law.
double bandRadiance_w_m2sr(double kelvin);

/// The temperature of a surface that a camera shows as `apparent_k`: M(apparent) = e M(T) + (1 - e)
/// M(reflected), solved for T. `emissivity` in (0, 1]. Nothing where no temperature would look like that.
std::optional<double> surfaceKelvin(double apparent_k, double emissivity, double reflected_k);
/// How a small rise shows: d apparent / d T of such a surface at a temperature.
double shownShare(double kelvin, double emissivity, double reflected_k);

/// What a camera looks at.
enum class Surface { Mask, Plastic, Ceramic, BareMetal };
/// Usual emissivity over 8 to 14 micrometres: lacquer, mould compound and ceramic about 0.9, bare tin and
/// cans 0.15 (common practice).
double emissivityOf(Surface surface);
/// A camera is blind to what shines: it shows the room.
inline bool isBlind(Surface surface) {
    return surface == Surface::BareMetal;
}

/// The top of a part, by its class and package: cans and connector shells are bare metal.
Surface surfaceOf(const Part& part);

/// Emissivity of each pixel (CV_32FC1) where the camera looks at a board: mask, and on it each part's top.
cv::Mat emissivityMap(const Board& board, const Registration& registration, cv::Size size);

} // namespace ustor
