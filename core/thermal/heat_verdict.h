#pragma once

#include "base/message.h"

#include <optional>
#include <string_view>

namespace ustor {

/// What a look at the heat comes to.
enum class HeatVerdict { Point, FarSide, Spread, None };
/// The word in files and on the command line: "point", "far side", "spread", "none".
std::string_view wordOf(HeatVerdict verdict);
Message labelOf(HeatVerdict verdict);
std::optional<HeatVerdict> heatVerdictFromWord(std::string_view word);

} // namespace ustor
