#include "base/quantity_text.h"

#include "base/measurement.h"
#include "base/number_text.h"

#include <array>
#include <cmath>
#include <cstdio>

namespace ustor {
namespace {

/// Drops a unit word at the end; the prefix letter before it stays.
std::string_view withoutUnit(std::string_view text) {
    for (const std::string_view unit : {"ohms", "ohm", "Ohms", "Ohm", "OHM", "\u03a9", "\u2126"})
        if (text.ends_with(unit)) return trimmed(text.substr(0, text.size() - unit.size()));
    const auto lettersEnd = text.find_last_not_of("VAWvaw");
    return text.size() - lettersEnd == 2 ? trimmed(text.substr(0, lettersEnd + 1)) : text;
}

/// The factor of a prefix letter, 1 for the letters that only stand for the decimal point.
std::optional<double> factorOf(std::string_view letter) {
    if (letter == "p") return 1e-12;
    if (letter == "n") return 1e-9;
    if (letter == "u" || letter == "\u00b5" || letter == "\u03bc") return 1e-6;
    if (letter == "m") return 1e-3;
    if (letter == "R" || letter == "r" || letter == "V" || letter == "v" || letter == "A") return 1.0;
    if (letter == "k" || letter == "K") return 1e3;
    if (letter == "M") return 1e6;
    return std::nullopt;
}

std::string print(const char* format, double value) {
    std::array<char, 48> buffer{};
    std::snprintf(buffer.data(), buffer.size(), format, value);
    return buffer.data();
}

/// Three significant digits without an exponent.
std::string threeDigits(double value) {
    const double size = std::fabs(value);
    if (size >= 99.95) return print("%.0f", value);
    if (size >= 9.995) return print("%.1f", value);
    return print("%.2f", value);
}

} // namespace

std::optional<double> quantityFromText(std::string_view raw) {
    std::string text(withoutUnit(trimmed(raw)));
    if (text.find('.') == std::string::npos)
        if (const auto comma = text.find(','); comma != std::string::npos) text[comma] = '.';
    if (const auto plain = numberFromText(text)) return plain;

    const auto letterAt = text.find_first_not_of("+-0123456789. ");
    if (letterAt == std::string::npos || letterAt == 0) return std::nullopt;
    const auto digitsAgain = text.find_first_of("0123456789.", letterAt);
    const std::string letter(trimmed(std::string_view(text).substr(
        letterAt, digitsAgain == std::string::npos ? std::string::npos : digitsAgain - letterAt)));
    const auto factor = factorOf(letter);
    if (!factor) return std::nullopt;
    const std::string_view before = trimmed(std::string_view(text).substr(0, letterAt));
    if (digitsAgain == std::string::npos) {
        const auto number = numberFromText(before);
        return number ? std::optional(*number * *factor) : std::nullopt;
    }
    // "1k2": the letter stands where the decimal point would.
    const std::string joined = std::string(before) + "." + text.substr(digitsAgain);
    const auto number = before.empty() ? std::nullopt : numberFromText(joined);
    return number ? std::optional(*number * *factor) : std::nullopt;
}

std::string quantityText(double value, std::string_view unit) {
    const std::string tail = " " + std::string(unit);
    const double size = std::fabs(value);
    if (unit == "V" || unit == "A") {
        const bool tiny = size > 0 && size < 0.0005;
        if (tiny) return threeDigits(value * 1e6) + " \u00b5" + std::string(unit);
        return (size < 9.9995 ? print("%.3f", value) : print("%.2f", value)) + tail;
    }
    struct Step {
        double from, factor;
        const char* prefix;
    };
    constexpr std::array<Step, 5> steps{
        {{1e6, 1e-6, "M"}, {1e3, 1e-3, "k"}, {1, 1, ""}, {1e-3, 1e3, "m"}, {0, 1e6, "\u00b5"}}};
    if (size == 0) return "0" + tail;
    for (const Step& step : steps)
        if (size >= step.from * 0.9995)
            return threeDigits(value * step.factor) + " " + step.prefix + std::string(unit);
    return threeDigits(value) + tail;
}

std::string_view unitOf(MeterMode mode) {
    return mode == MeterMode::Diode || mode == MeterMode::Volts ? "V" : "\u03a9";
}

std::string_view wordOf(MeterMode mode) {
    switch (mode) {
    case MeterMode::Diode:
        return "diode";
    case MeterMode::Ohms:
        return "ohms";
    case MeterMode::Beep:
        return "beep";
    case MeterMode::Volts:
        return "volts";
    }
    return "ohms";
}

Message labelOf(MeterMode mode) {
    switch (mode) {
    case MeterMode::Diode:
        return say("diode");
    case MeterMode::Ohms:
        return say("ohms");
    case MeterMode::Beep:
        return say("beep");
    case MeterMode::Volts:
        return say("volts");
    }
    return {};
}

std::optional<MeterMode> meterModeFromWord(std::string_view word) {
    for (const MeterMode mode : {MeterMode::Diode, MeterMode::Ohms, MeterMode::Beep, MeterMode::Volts})
        if (lowered(trimmed(word)) == wordOf(mode)) return mode;
    return std::nullopt;
}

std::optional<Reading> readingFromText(std::string_view text, MeterMode mode) {
    const std::string word = lowered(trimmed(text));
    if (word == "ol" || word == "o.l" || word == "0l" || word == "open")
        return Reading{mode, ReadingState::OverRange, 0, 0};
    const auto value = quantityFromText(text);
    if (!value) return std::nullopt;
    if (*value < 0 && mode != MeterMode::Volts) return std::nullopt;
    return Reading{mode, ReadingState::Value, *value, 0};
}

std::string textOf(const Reading& reading) {
    if (reading.state == ReadingState::OverRange) return "OL";
    return quantityText(reading.value, unitOf(reading.mode));
}

} // namespace ustor
