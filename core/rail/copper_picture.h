#pragma once

#include "rail/copper_network.h"

#include <vector>

namespace ustor {

/// Potential and current on one layer of a rail's copper, on a grid for drawing.
struct CopperPicture {
    BoardPoint low; ///< lower left corner of the first cell
    double step_mm = 0;
    int columns = 0, rows = 0;
    std::vector<float> volts; ///< above the lowest; row by row from below; not a number where no copper is
    /// Where the current goes, A per mm of width, at the middle of some cells.
    struct Arrow {
        BoardPoint at, density;
    };
    std::vector<Arrow> flow;
};

/// The rail while a current enters at a pad and a part drains it to ground: a picture for each layer of the
/// board, top to bottom. `most_cells` bounds the work. Error when no file gives the copper, or one of the
/// places lies beside it.
Result<std::vector<CopperPicture>> copperPictures(const Board& board, const Stretch& stretch, PadRef inject,
                                                  PartIndex drain, Amps current, int mostCells = 60000);

} // namespace ustor
