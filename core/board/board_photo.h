#pragma once

#include "base/points.h"
#include "base/side.h"

#include <array>
#include <string>

namespace ustor {

/// A photo of one side of a board, as its background.
struct BoardPhoto {
    Side side = Side::Top;
    std::string file; ///< beside the board's file, or with its whole path
    /// Corners of a rectangle on the board, from the upper left clockwise as the photo shows them.
    std::array<PixelPoint, 4> corners{};
    BoardPoint low;                     ///< lower left of that rectangle on the board
    double width_mm = 0, height_mm = 0; ///< of that rectangle
};

} // namespace ustor
