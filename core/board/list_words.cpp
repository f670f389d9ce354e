#include "board/list_words.h"

#include "base/number_text.h"

#include <algorithm>

namespace ustor {

std::string bareWord(std::string_view text) {
    std::string out;
    for (const char c : lowered(text))
        if ((c >= 'a' && c <= 'z') || (c >= '0' && c <= '9')) out += c;
    return out;
}

std::optional<double> unitIn(std::string_view text) {
    const std::string word = lowered(text);
    if (word.find("mil") != std::string::npos && word.find("millim") == std::string::npos) return 0.0254;
    if (word.find("inch") != std::string::npos || word.ends_with("in") ||
        word.find("(in)") != std::string::npos)
        return 25.4;
    if (word.find("mm") != std::string::npos || word.find("millim") != std::string::npos) return 1.0;
    return std::nullopt;
}

std::optional<double> lengthFromCell(std::string text, double unit_mm, bool commaIsPoint) {
    if (commaIsPoint) std::replace(text.begin(), text.end(), ',', '.');
    const auto letter = text.find_first_of("abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ\"");
    if (letter != std::string::npos) {
        const auto own = text[letter] == '"' ? std::optional(25.4) : unitIn(text.substr(letter));
        if (!own) return std::nullopt;
        unit_mm = *own;
        text.resize(letter);
    }
    const auto number = numberFromText(text);
    return number ? std::optional(*number * unit_mm) : std::nullopt;
}

std::optional<Side> sideFromWord(std::string_view text) {
    const std::string word = bareWord(text);
    if (word.empty() || word.starts_with('t') || word == "1" || word.starts_with("front") || word == "f" ||
        word == "fcu")
        return Side::Top;
    if (word.starts_with("bo") || word.starts_with("back") || word == "b" || word == "2" || word == "bcu" ||
        word == "solder")
        return Side::Bottom;
    return std::nullopt;
}

} // namespace ustor
