#pragma once

#include "base/points.h"

#include <string>
#include <vector>

namespace ustor {

/// One drawn piece of copper of a layer: an outline with holes, board frame, millimetres. Pieces of one net
/// may overlap.
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

/// Area between the outline and its holes.
double area_mm2(const CopperPiece& piece);
/// Of all that the layer covers: what overlaps counts once.
double area_mm2(const CopperLayer& layer);
/// The layer's copper of some nets, with pieces of one net that overlap or touch made one: what is apart
/// then, is not connected.
CopperLayer united(const CopperLayer& layer, const std::vector<int>& nets);
/// The layer without what a shape covers.
CopperLayer without(const CopperLayer& layer, const CopperPiece& taken);
/// True when a point lies on the piece.
bool contains(const CopperPiece& piece, BoardPoint point);

} // namespace ustor
