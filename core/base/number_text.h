#pragma once

#include <optional>
#include <string>
#include <string_view>

namespace ustor {

/// The whole text as a finite decimal number, point as the separator whatever the locale; nothing otherwise.
std::optional<double> numberFromText(std::string_view text);
/// The whole text as an integer; nothing otherwise.
std::optional<long> integerFromText(std::string_view text);
/// Shortest text that reads back as the same number.
std::string textOfNumber(double value);

std::string_view trimmed(std::string_view text);
std::string lowered(std::string_view text);
std::string uppered(std::string_view text);
/// The same but for the case of its letters.
bool sameLetters(std::string_view a, std::string_view b);

} // namespace ustor
