#pragma once

#include "base/units.h"

namespace ustor {

/// Resistivity of annealed copper at a temperature: rho = (1/58) uOhm m (1 + 0.00393/K (T - 20 C)).
/// IEC 60028 (the IACS). Result in Ohm m.
double copperResistivity_ohm_m(Celsius temperature = Celsius(20));

/// rho / t of a foil, Ohm per square; thickness in metres. 35 um gives 0.4926 mOhm.
Ohms sheetResistance(double thickness_m, Celsius temperature = Celsius(20));

/// Diameter of an AWG size: 0.127 mm 92^((36 - n)/39) (ASTM B258). Sizes 00 and 000 are n = -1 and -2.
Millimetres awgDiameter(int gauge);

/// Resistance of a solid copper wire of that gauge, one way.
Ohms wireResistance(int gauge, double length_m, Celsius temperature = Celsius(20));

/// Plated barrel of a via: R = rho h / (pi (d t + t^2)), d the finished hole, t the plating, h the height;
/// metres.
Ohms viaResistance(double height_m, double hole_m, double plating_m);

/// Potential at distance r from a point that feeds a current into an infinite sheet, up to a constant:
/// V(r) = -(I R / 2 pi) ln r. r in any one unit of length.
double sheetPotential_v(Amps current, Ohms perSquare, double distance);

/// Current that heats a conductor of a cross-section by dT: I = k dT^0.44 A^0.725, A in mil^2, k = 0.048
/// outside, 0.024 inside a board (IPC-2221A, 6.2, from memory). Metres and kelvin.
Amps currentForRise(double width_m, double thickness_m, double rise_k, bool outerLayer);

} // namespace ustor
