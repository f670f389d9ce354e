#pragma once

#include "base/points.h"

#include <cmath>
#include <polyclipping/clipper.hpp>
#include <span>
#include <vector>

namespace ustor::plane {

/// Shapes in a plane as sets of closed paths, in whole nanometres, filled by the non-zero rule: outlines run
/// anticlockwise, holes clockwise.
using ClipperLib::IntPoint;
using ClipperLib::Path;
using ClipperLib::Paths;

constexpr double perMillimetre = 1e6;
inline IntPoint nanometres(double x_mm, double y_mm) {
    return {std::llround(x_mm * perMillimetre), std::llround(y_mm * perMillimetre)};
}
inline BoardPoint millimetres(IntPoint p) {
    return {static_cast<double>(p.X) / perMillimetre, static_cast<double>(p.Y) / perMillimetre};
}

/// How far a chord may lie inside its arc: well below what any board maker can etch.
constexpr double chord_mm = 0.001;

Path circle(BoardPoint centre, double diameter_mm);
/// A box around a point, turned anticlockwise about it.
Path box(BoardPoint centre, double width_mm, double height_mm, double turn_deg = 0);
/// Corners on a circle; the first one at `turn_deg`.
Path regularPolygon(BoardPoint centre, double diameter_mm, int corners, double turn_deg);
/// A box with half circles on its short ends.
Path obround(BoardPoint centre, double width_mm, double height_mm);
/// Points of an arc after its start, the end included. Equal start and end make a full circle.
std::vector<BoardPoint> arcPoints(BoardPoint start, BoardPoint end, BoardPoint centre, bool clockwise);
/// What a round pen covers that is drawn along a line of points.
Paths stroke(const std::vector<BoardPoint>& line, double width_mm);
/// What a convex shape about the origin covers that is drawn from one point to another.
Path sweep(const Path& shape, BoardPoint from, BoardPoint to);
/// The same along a line of points.
Paths drag(const Path& shape, const std::vector<BoardPoint>& line);

Paths unite(const Paths& shapes);
/// All of many shapes, each with its own holes.
Paths unite(std::span<const Paths* const> shapes);
Paths subtract(const Paths& from, const Paths& taken);
double area_mm2(const Paths& shapes);

/// A linear map: mirror first, then scale and turn, then shift.
struct Placing {
    BoardPoint shift;
    double turn_deg = 0, scale = 1;
    bool mirrorX = false, mirrorY = false; ///< x, y change their sign
    bool plain() const { return turn_deg == 0 && scale == 1 && !mirrorX && !mirrorY; }
    bool nothing() const { return plain() && shift == BoardPoint{}; }
    BoardPoint apply(BoardPoint p) const;
    Paths apply(const Paths& shapes) const;
};

} // namespace ustor::plane
