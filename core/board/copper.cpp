#include "board/copper.h"

#include "board/plane/copper_pieces.h"

#include <algorithm>
#include <cmath>
#include <iterator>

namespace ustor {
namespace {

double signedArea_mm2(const std::vector<BoardPoint>& path) {
    double sum = 0;
    for (std::size_t i = 0, j = path.size() - 1; i < path.size(); j = i++)
        sum += path[j].x_mm * path[i].y_mm - path[i].x_mm * path[j].y_mm;
    return sum / 2;
}

struct BoardBounds {
    BoardPoint low, high;
    explicit BoardBounds(const CopperPiece& piece) : low(piece.outline.front()), high(low) {
        for (const BoardPoint p : piece.outline) {
            low = {std::min(low.x_mm, p.x_mm), std::min(low.y_mm, p.y_mm)};
            high = {std::max(high.x_mm, p.x_mm), std::max(high.y_mm, p.y_mm)};
        }
    }
    bool meets(const BoardBounds& o) const {
        return low.x_mm <= o.high.x_mm && o.low.x_mm <= high.x_mm && low.y_mm <= o.high.y_mm &&
               o.low.y_mm <= high.y_mm;
    }
};

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
    plane::Paths all;
    for (const CopperPiece& piece : layer.pieces) {
        const auto paths = plane::pathsOf(piece);
        all.insert(all.end(), paths.begin(), paths.end());
    }
    return plane::area_mm2(plane::unite(all));
}

CopperLayer united(const CopperLayer& layer, const std::vector<int>& nets) {
    CopperLayer one{layer.name, layer.thickness_mm, {}};
    for (const int net : nets) {
        std::vector<plane::Paths> drawn;
        for (const CopperPiece& piece : layer.pieces)
            if (piece.net == net) drawn.push_back(plane::pathsOf(piece));
        std::vector<const plane::Paths*> all;
        for (const auto& paths : drawn)
            all.push_back(&paths);
        auto pieces = plane::unitedPieces(plane::unite(all), net);
        std::move(pieces.begin(), pieces.end(), std::back_inserter(one.pieces));
    }
    return one;
}

CopperLayer without(const CopperLayer& layer, const CopperPiece& taken) {
    CopperLayer left{layer.name, layer.thickness_mm, {}};
    const auto hole = plane::pathsOf(taken);
    const BoardBounds around(taken);
    for (const CopperPiece& piece : layer.pieces) {
        // Layers hold tens of thousands of pieces, and a file may take away as often.
        if (!around.meets(BoardBounds(piece))) {
            left.pieces.push_back(piece);
            continue;
        }
        auto pieces = plane::unitedPieces(plane::subtract(plane::pathsOf(piece), hole), piece.net);
        std::move(pieces.begin(), pieces.end(), std::back_inserter(left.pieces));
    }
    return left;
}

bool contains(const CopperPiece& piece, BoardPoint point) {
    if (!inside(piece.outline, point)) return false;
    for (const auto& hole : piece.holes)
        if (inside(hole, point)) return false;
    return true;
}

} // namespace ustor
