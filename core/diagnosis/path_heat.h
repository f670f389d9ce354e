#pragma once

#include "board/board.h"
#include "thermal/locate.h"

namespace ustor {

/// True when a source lies on a part that carries the current by trade: a link or switch of this rail, or,
/// without a rail, of any. Such a part is expected to warm by I squared R.
bool liesInPath(const LocatedSource& source, const Board& board, NetIndex rail, Side side);

/// Orders sources by how likely each is the fault: what is known to carry the current comes after what has no
/// reason to be warm, the order among either kept. Fills `inPath`.
void orderByPath(LocateResult& result, const Board& board, NetIndex rail, Side side);

} // namespace ustor
