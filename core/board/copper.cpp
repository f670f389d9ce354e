#include "board/copper.h"

#include <cmath>
#include <numeric>

namespace ustor {
namespace {

double signedArea_mm2(const std::vector<BoardPoint>& path) {
    double sum = 0;
    for (std::size_t i = 0, j = path.size() - 1; i < path.size(); j = i++)
        sum += path[j].x_mm * path[i].y_mm - path[i].x_mm * path[j].y_mm;
    return sum / 2;
}

bool inside(const std::vector<BoardPoint>& path, BoardPoint p) {
    bool odd = false;
    for (std::size_t i = 0, j = path.size() - 1; i < path.size(); j = i++) {
        const BoardPoint &a = path[i], &b = path[j];
        if ((a.y_mm > p.y_mm) != (b.y_mm > p.y_mm) &&
            p.x_mm < (b.x_mm - a.x_mm) * (p.y_mm - a.y_mm) / (b.y_mm - a.y_mm) + a.x_mm)
            odd = !odd;
    }
    return odd;
}

} // namespace

double area_mm2(const CopperPiece& piece) {
    double sum = std::fabs(signedArea_mm2(piece.outline));
    for (const auto& hole : piece.holes)
        sum -= std::fabs(signedArea_mm2(hole));
    return sum;
}

double area_mm2(const CopperLayer& layer) {
    return std::accumulate(layer.pieces.begin(), layer.pieces.end(), 0.0,
                           [](double sum, const CopperPiece& piece) { return sum + area_mm2(piece); });
}

bool contains(const CopperPiece& piece, BoardPoint point) {
    if (!inside(piece.outline, point)) return false;
    for (const auto& hole : piece.holes)
        if (inside(hole, point)) return false;
    return true;
}

} // namespace ustor
