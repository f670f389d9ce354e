#pragma once

#include <compare>

namespace ustor {

/// A double that cannot be mistaken for another kind of quantity. SI units unless the name says otherwise.
template <class Tag> struct Quantity {
    double value = 0;

    constexpr Quantity() = default;
    constexpr explicit Quantity(double v) : value(v) {}
    constexpr auto operator<=>(const Quantity&) const = default;
    constexpr Quantity operator+(Quantity o) const { return Quantity(value + o.value); }
    constexpr Quantity operator-(Quantity o) const { return Quantity(value - o.value); }
    constexpr Quantity operator*(double f) const { return Quantity(value * f); }
    constexpr Quantity operator/(double f) const { return Quantity(value / f); }
    constexpr double operator/(Quantity o) const { return value / o.value; }
};

using Volts = Quantity<struct VoltsTag>;
using Amps = Quantity<struct AmpsTag>;
using Ohms = Quantity<struct OhmsTag>;
using Watts = Quantity<struct WattsTag>;
using Seconds = Quantity<struct SecondsTag>;
using Celsius = Quantity<struct CelsiusTag>;
using Millimetres = Quantity<struct MillimetresTag>;

constexpr Watts operator*(Volts v, Amps i) {
    return Watts(v.value * i.value);
}
constexpr Ohms operator/(Volts v, Amps i) {
    return Ohms(v.value / i.value);
}
constexpr Amps operator/(Volts v, Ohms r) {
    return Amps(v.value / r.value);
}
constexpr Volts operator*(Amps i, Ohms r) {
    return Volts(i.value * r.value);
}

/// 0 degrees Celsius (SI brochure, 9th edition, 2.3.1).
constexpr double celsiusZero_k = 273.15;

} // namespace ustor
