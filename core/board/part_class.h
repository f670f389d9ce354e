#pragma once

#include "base/message.h"

#include <optional>
#include <string_view>

namespace ustor {

/// What kind of thing a part is, as far as a hunt for a short cares.
enum class PartClass {
    CeramicCapacitor,
    PolarCapacitor, ///< tantalum, polymer, electrolytic
    Resistor,
    SenseResistor, ///< a few hundred milliohms at most, zero-ohm links included
    Inductor,
    Ferrite,
    Fuse,
    Diode,
    ClampDiode,
    Mosfet,
    Regulator, ///< controller, converter or linear regulator
    Ic,
    Processor, ///< its core rail reads low when healthy, and dies above about 1.3 V
    Connector,
    Switch,
    Crystal,
    TestPoint,
    Mechanical,
    Other
};

/// The word for a class in files ("ceramic capacitor", "mosfet", ...).
std::string_view wordOf(PartClass partClass);
Message labelOf(PartClass partClass);
std::optional<PartClass> partClassFromWord(std::string_view word);

/// A guess from the designator's letters (IEEE 315 / IEC 81346 habits), the value and the package. Never
/// fails: what cannot be told is Other.
PartClass guessPartClass(std::string_view designator, std::string_view value, std::string_view package);

/// The value in ohms of a resistor as written ("0R01", "10m", "4k7", "0"); nothing when it is not one.
std::optional<double> resistorOhms(std::string_view value);

} // namespace ustor
