#pragma once

#include "board/copper.h"
#include "board/plane/plane_shapes.h"

namespace ustor::plane {

/// Connected pieces of a shape, each with its holes; what overlaps becomes one.
std::vector<CopperPiece> unitedPieces(const Paths& shape, int net = -1);

/// Drawn paths as they stand, placed: each outline (anticlockwise) with the holes (clockwise) that follow it.
/// Quick, and overlaps are kept.
void addDrawnPieces(std::vector<CopperPiece>& pieces, const Paths& shape, int net,
                    const Placing& placing = {});

/// Outline and holes of a piece.
Paths pathsOf(const CopperPiece& piece);

} // namespace ustor::plane
