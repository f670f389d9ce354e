#pragma once

#include "board/board.h"

#include <vector>

namespace ustor {

/// Nets that ought to read like this one because the board is built alike around them: the same kinds, values
/// and pins of parts on them, three or more, and the same working voltage. Like channels of one converter,
/// like ports, like memory banks. Nets that hang on this one through links are the same rail, and no
/// siblings.
std::vector<NetIndex> siblingNets(const Board& board, NetIndex net);

} // namespace ustor
