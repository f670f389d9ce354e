#pragma once

#include "board/board.h"

#include <string>
#include <vector>

namespace ustor {

/// Parts whose middle is easy to find in a warm picture of one side, spread far apart: to be clicked as
/// landmarks.
std::vector<PartIndex> landmarkParts(const Board& board, Side side, int count);

/// The parts to ask for: four fix the place, the fifth tells how well.
struct AskedPart {
    std::string designator;
    BoardPoint centre;
};
std::vector<AskedPart> partsToAsk(const Board& board, Side side);
std::string namesOf(const std::vector<AskedPart>& parts); ///< "J1, L1, U3"

} // namespace ustor
