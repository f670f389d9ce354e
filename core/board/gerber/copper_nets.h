#pragma once

#include "board/board.h"

#include <string>
#include <vector>

namespace ustor::gerber {

/// A plated hole that joins copper layers; `net` is filled in by `nameNets`.
struct PlatedHole {
    BoardPoint at;
    double diameter_mm = 0;
    int first = 0, last = 0; ///< copper layers, counted from 0
    NetIndex net = -1;
};

/// A drawn thing whose file names its net.
struct NetMark {
    int layer = 0; ///< copper layer, counted from 0
    BoardPoint at;
    std::string net;
};

/// Gives the copper of a board its nets: what hangs together through plated holes takes the net that most
/// marks, else most pads on it have.
void nameNets(Board& board, std::vector<PlatedHole>& holes, const std::vector<NetMark>& marks);

} // namespace ustor::gerber
