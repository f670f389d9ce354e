#pragma once

#include "base/message.h"

#include <string_view>

namespace ustor {

/// The two sides of a board.
enum class Side { Top, Bottom };
std::string_view wordOf(Side side);
Message labelOf(Side side);
Side otherSide(Side side);

} // namespace ustor
