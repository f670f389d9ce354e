#pragma once

#include "board/board.h"

#include <vector>

namespace ustor {

/// A place to go to on one side of a board.
struct Stop {
    BoardPoint at;
    Side side = Side::Top;
};

/// A short way through all stops that turns the board over at most once: first all of the side to start from,
/// then the other. Nearest neighbour, improved by exchanging two legs (2-opt) until nothing gets shorter.
/// Returns indices of the stops.
std::vector<int> walkOrder(const std::vector<Stop>& stops, Side first = Side::Top);

} // namespace ustor
