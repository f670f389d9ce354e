#pragma once

#include "board/board.h"

#include <QImage>

#include <array>

namespace ustor {

/// A board as a camera held by hand would see it: mask, pads and bodies, in perspective, a little noisy.
struct RenderedPhoto {
    QImage image;
    std::array<PixelPoint, 4>
        corners; ///< of the board's box, from the upper left clockwise as the photo shows it
};

RenderedPhoto photographed(const Board& board, Side side);

} // namespace ustor
