#pragma once

#include "board/board.h"

#include <vector>

namespace ustor {

/// Parts whose middle is easy to find in a warm picture of one side, spread far apart: to be clicked as
/// landmarks.
std::vector<PartIndex> landmarkParts(const Board& board, Side side, int count);

} // namespace ustor
