#pragma once

#include "base/message.h"

#include <optional>
#include <string>
#include <string_view>

namespace ustor {

/// How the meter was set for a reading.
enum class MeterMode { Diode, Ohms, Beep, Volts };

/// A reading is a value or a named state; never a magic number.
enum class ReadingState { Value, OverRange };

/// One reading of the meter: volts in Diode and Volts mode, ohms in Ohms mode, ohms as shown in Beep mode.
struct Reading {
    MeterMode mode = MeterMode::Ohms;
    ReadingState state = ReadingState::Value;
    double value = 0;      ///< in the unit of the mode; meaningless when over range
    double resolution = 0; ///< one digit of the meter, same unit; 0 when not known
    bool operator==(const Reading&) const = default;
};

/// The unit that a mode shows: "V" or "Ω".
std::string_view unitOf(MeterMode mode);
/// The word for a mode in files: diode, ohms, beep, volts.
std::string_view wordOf(MeterMode mode);
Message labelOf(MeterMode mode);
std::optional<MeterMode> meterModeFromWord(std::string_view word);

/// Reads what a person types for a reading: "63", "4m", "1k2", "0,35", "4R7", "120 mΩ", "OL".
/// Nothing when it is not a reading.
std::optional<Reading> readingFromText(std::string_view text, MeterMode mode);

/// For the eye: value with unit and sensible digits ("0.004 V", "63 Ω", "OL").
std::string textOf(const Reading& reading);

} // namespace ustor
