#pragma once

#include "board/board.h"
#include "board/centroid_reader.h"

namespace ustor {

/// Adds what a centroid list knows (value, package, side, rotation, centre) to the parts of a board; parts
/// that only the list knows are added without pads. Where list and pads come from different origins, one
/// common shift is estimated from the parts both know and applied to the list; mirrored bottom sides are
/// recognised. What does not fit is kept and told as a warning.
void joinCentroids(Board& board, const CentroidList& list);

/// Centres, bodies, sides and classes of parts where no file gave them. Called once all files are joined.
void completeParts(Board& board);

} // namespace ustor
