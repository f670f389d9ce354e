#pragma once

#include "base/units.h"

#include <optional>
#include <string_view>

namespace ustor {

/// The working voltage that a net's name spells: "+3V3", "VCC_5V0", "1V05_CORE", "P12V", "VBUS_20V".
/// Nothing when the name says none; common practice, to be confirmed by a person.
std::optional<Volts> nominalFromName(std::string_view net);

/// True for names that mean ground: GND, AGND, VSS, 0V and their kin.
bool isGroundName(std::string_view net);

} // namespace ustor
