#include "thermal/plate.h"

#include <cmath>
#include <limits>
#include <numbers>

namespace ustor {

double Plate::lossLength_m() const {
    if (lossPerFace_w_m2k <= 0) return std::numeric_limits<double>::infinity();
    return std::sqrt(conductivity_w_mk * thickness_m / (2 * lossPerFace_w_m2k));
}

double lineSourceRise_k(const Plate& plate, double watts, double distance_m, double seconds) {
    if (seconds <= 0) return 0;
    const double u = distance_m * distance_m / (4 * plate.diffusivity_m2_s() * seconds);
    // E1(u) = -Ei(-u) for u > 0.
    return watts / (4 * std::numbers::pi * plate.conductivity_w_mk * plate.thickness_m) * -std::expint(-u);
}

double steadyRise_k(const Plate& plate, double watts, double distance_m) {
    const double scale = watts / (2 * std::numbers::pi * plate.conductivity_w_mk * plate.thickness_m);
    return scale * std::cyl_bessel_k(0.0, distance_m / plate.lossLength_m());
}

} // namespace ustor
