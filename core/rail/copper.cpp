#include "rail/copper.h"

#include "base/check.h"

#include <cmath>
#include <numbers>

namespace ustor {

double copperResistivity_ohm_m(Celsius temperature) {
    constexpr double at20 = 1e-6 / 58, perKelvin = 0.00393;
    return at20 * (1 + perKelvin * (temperature.value - 20));
}

Ohms sheetResistance(double thickness_m, Celsius temperature) {
    USTOR_CHECK(thickness_m > 0, "a foil needs a thickness");
    return Ohms(copperResistivity_ohm_m(temperature) / thickness_m);
}

Millimetres awgDiameter(int gauge) {
    return Millimetres(0.127 * std::pow(92.0, (36.0 - gauge) / 39.0));
}

Ohms wireResistance(int gauge, double length_m, Celsius temperature) {
    const double diameter_m = awgDiameter(gauge).value * 1e-3;
    return Ohms(copperResistivity_ohm_m(temperature) * length_m /
                (std::numbers::pi * diameter_m * diameter_m / 4));
}

Ohms viaResistance(double height_m, double hole_m, double plating_m) {
    USTOR_CHECK(plating_m > 0, "a via needs plating");
    const double area = std::numbers::pi * (hole_m * plating_m + plating_m * plating_m);
    return Ohms(copperResistivity_ohm_m() * height_m / area);
}

double sheetPotential_v(Amps current, Ohms perSquare, double distance) {
    return -current.value * perSquare.value / (2 * std::numbers::pi) * std::log(distance);
}

Amps currentForRise(double width_m, double thickness_m, double rise_k, bool outerLayer) {
    constexpr double mil_m = 25.4e-6;
    const double area_mil2 = width_m * thickness_m / (mil_m * mil_m);
    return Amps((outerLayer ? 0.048 : 0.024) * std::pow(rise_k, 0.44) * std::pow(area_mil2, 0.725));
}

} // namespace ustor
