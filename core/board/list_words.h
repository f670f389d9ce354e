#pragma once

#include "board/board.h"

#include <optional>
#include <string>
#include <string_view>

namespace ustor {

/// Only letters and digits, lower case: "Mid X (mm)" becomes "midxmm".
std::string bareWord(std::string_view text);

/// Millimetres in the unit that a text mentions (mm, mil, inch); nothing when it mentions none.
std::optional<double> unitIn(std::string_view text);

/// A length with an optional unit behind it, in millimetres; `unit_mm` holds where it has none.
std::optional<double> lengthFromCell(std::string text, double unit_mm, bool commaIsPoint);

/// The side that a word of a list means; top when it is empty, nothing when it is not known.
std::optional<Side> sideFromWord(std::string_view text);

} // namespace ustor
