#include "board/nominal_voltage.h"

#include "base/number_text.h"

#include <cctype>
#include <regex>
#include <string>

namespace ustor {

std::optional<Volts> nominalFromName(std::string_view net) {
    const std::string name = uppered(net);
    // Boards have thousands of nets, few with a voltage in their names, and an expression is slow to say so.
    if (name.find('V') == std::string::npos || name.find_first_of("0123456789") == std::string::npos)
        return std::nullopt;
    // A minus in front of the digits is a negative rail: never injected into by the rules for positive ones.
    static const std::regex letterForPoint("(^|[^A-Z0-9.])[A-Z]{0,3}?([0-9]{1,2})V([0-9]{1,3})?($|[^0-9V])");
    static const std::regex decimalPoint("([0-9]{1,2}[.][0-9]{1,3}) ?V");
    std::smatch match;
    std::string digits;
    if (std::regex_search(name, match, decimalPoint))
        digits = match[1];
    else if (std::regex_search(name, match, letterForPoint))
        digits = match[2].str() + "." + match[3].str() + "0";
    else
        return std::nullopt;
    const auto at = static_cast<std::size_t>(match.position(0));
    if (name.substr(0, at + 1).find('-') != std::string::npos) return std::nullopt;
    const auto value = numberFromText(digits);
    return value && *value > 0 ? std::optional(Volts(*value)) : std::nullopt;
}

bool isGroundName(std::string_view net) {
    const std::string name = uppered(trimmed(net));
    if (name == "0" || name == "0V" || name == "VSS" || name == "EARTH" || name == "MASSE") return true;
    if (name.starts_with("GND") || name.starts_with("/GND")) return true;
    if (!name.ends_with("GND")) return name.ends_with("VSS");
    // AGND, PGND, DGND, SYS_GND, but not a signal that merely ends so after more letters.
    const auto letters = name.size() - 3;
    return letters <= 2 || !std::isalpha(static_cast<unsigned char>(name[letters - 1]));
}

} // namespace ustor
