#pragma once

#include "base/points.h"

#include <string>
#include <vector>

namespace ustor {

/// One connected piece of copper of a layer: an outline with holes, board frame, millimetres.
struct CopperPiece {
    std::vector<BoardPoint> outline;            ///< anticlockwise
    std::vector<std::vector<BoardPoint>> holes; ///< clockwise
    int net = -1;                               ///< index into the board's nets; -1 when not known
};

/// The copper of one layer.
struct CopperLayer {
    std::string name;
    double thickness_mm = 0.035; ///< IPC-4562 designation of one ounce, where no file says more
    std::vector<CopperPiece> pieces;
};

/// Area between the outlines and their holes.
double area_mm2(const CopperPiece& piece);
double area_mm2(const CopperLayer& layer);
/// True when a point lies on the piece.
bool contains(const CopperPiece& piece, BoardPoint point);

} // namespace ustor
