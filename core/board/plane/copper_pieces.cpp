#include "board/plane/copper_pieces.h"

#include <algorithm>

namespace ustor::plane {
namespace {

std::vector<BoardPoint> pointsOf(const Path& path) {
    std::vector<BoardPoint> points;
    points.reserve(path.size());
    for (const IntPoint p : path)
        points.push_back(millimetres(p));
    return points;
}

Path pathOf(const std::vector<BoardPoint>& points, bool hole) {
    Path path;
    path.reserve(points.size());
    for (const BoardPoint p : points)
        path.push_back(nanometres(p.x_mm, p.y_mm));
    if (ClipperLib::Orientation(path) == hole) std::reverse(path.begin(), path.end());
    return path;
}

/// Holes inside holes are pieces of their own again.
void collect(const ClipperLib::PolyNode& node, std::vector<CopperPiece>& pieces, int net) {
    for (const ClipperLib::PolyNode* outer : node.Childs) {
        CopperPiece piece;
        piece.net = net;
        piece.outline = pointsOf(outer->Contour);
        for (const ClipperLib::PolyNode* hole : outer->Childs) {
            piece.holes.push_back(pointsOf(hole->Contour));
            collect(*hole, pieces, net);
        }
        pieces.push_back(std::move(piece));
    }
}

} // namespace

std::vector<CopperPiece> unitedPieces(const Paths& shape, int net) {
    ClipperLib::Clipper clipper;
    clipper.AddPaths(shape, ClipperLib::ptSubject, true);
    ClipperLib::PolyTree tree;
    clipper.Execute(ClipperLib::ctUnion, tree, ClipperLib::pftNonZero);
    std::vector<CopperPiece> pieces;
    collect(tree, pieces, net);
    return pieces;
}

void addDrawnPieces(std::vector<CopperPiece>& pieces, const Paths& shape, int net, const Placing& placing) {
    if (!placing.plain()) return addDrawnPieces(pieces, placing.apply(shape), net);
    const IntPoint by = nanometres(placing.shift.x_mm, placing.shift.y_mm);
    const auto placed = [by](const Path& path) {
        std::vector<BoardPoint> points;
        points.reserve(path.size());
        for (const IntPoint p : path)
            points.push_back(millimetres({p.X + by.X, p.Y + by.Y}));
        return points;
    };
    constexpr std::size_t fewest = 3;
    bool open = false; // an outline of this shape that holes may follow
    for (const Path& path : shape) {
        if (path.size() < fewest) continue;
        if (!open || ClipperLib::Orientation(path)) {
            pieces.push_back({placed(path), {}, net});
            open = true;
        } else {
            pieces.back().holes.push_back(placed(path));
        }
    }
}

Paths pathsOf(const CopperPiece& piece) {
    Paths paths{pathOf(piece.outline, false)};
    for (const auto& hole : piece.holes)
        paths.push_back(pathOf(hole, true));
    return paths;
}

} // namespace ustor::plane
