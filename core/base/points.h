#pragma once

#include <cmath>

namespace ustor {

/// A place on the board, seen from the top side: x to the right, y up, in millimetres.
struct BoardPoint {
    double x_mm = 0;
    double y_mm = 0;
    bool operator==(const BoardPoint&) const = default;
};

/// A place in a camera picture: x to the right, y down, in pixels; the middle of the first pixel is (0, 0).
struct PixelPoint {
    double x_px = 0;
    double y_px = 0;
    bool operator==(const PixelPoint&) const = default;
};

inline double distance_mm(BoardPoint a, BoardPoint b) {
    return std::hypot(a.x_mm - b.x_mm, a.y_mm - b.y_mm);
}
inline double distance_px(PixelPoint a, PixelPoint b) {
    return std::hypot(a.x_px - b.x_px, a.y_px - b.y_px);
}

} // namespace ustor
