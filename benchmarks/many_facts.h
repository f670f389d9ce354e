#pragma once

#include "board/board.h"
#include "diagnosis/fact/fact.h"

#include <vector>

namespace ustor {

/// Facts as they come on a bench: readings all over the board, looks, notes, now and then a part off and on.
std::vector<FactBody> manyFacts(const Board& board, int count);

} // namespace ustor
