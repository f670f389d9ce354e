#include "board/plane/plane_shapes.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ustor::plane {
namespace {

constexpr double radians(double degrees) {
    return degrees * std::numbers::pi / 180;
}

int cornersFor(double radius_mm) {
    constexpr double fewest = 12, most = 360;
    if (radius_mm <= chord_mm) return static_cast<int>(fewest);
    const double step = 2 * std::acos(1 - chord_mm / radius_mm);
    return static_cast<int>(std::clamp(std::ceil(2 * std::numbers::pi / step), fewest, most));
}

} // namespace

Path circle(BoardPoint centre, double diameter_mm) {
    // As large as the circle in area, not inside it: copper is counted, not drawn.
    const int corners = cornersFor(diameter_mm / 2);
    const double step = 2 * std::numbers::pi / corners;
    const double grown = std::sqrt(step / std::sin(step));
    return regularPolygon(centre, diameter_mm * grown, corners, 0);
}

Path regularPolygon(BoardPoint centre, double diameter_mm, int corners, double turn_deg) {
    Path path;
    for (int i = 0; i < corners; ++i) {
        const double angle = radians(turn_deg) + 2 * std::numbers::pi * i / corners;
        path.push_back(nanometres(centre.x_mm + diameter_mm / 2 * std::cos(angle),
                                  centre.y_mm + diameter_mm / 2 * std::sin(angle)));
    }
    return path;
}

Path box(BoardPoint centre, double width_mm, double height_mm, double turn_deg) {
    const double c = std::cos(radians(turn_deg)), s = std::sin(radians(turn_deg));
    Path path;
    for (const auto& [sx, sy] : {std::pair{-1, -1}, {1, -1}, {1, 1}, {-1, 1}}) {
        const double x = sx * width_mm / 2, y = sy * height_mm / 2;
        path.push_back(nanometres(centre.x_mm + c * x - s * y, centre.y_mm + s * x + c * y));
    }
    return path;
}

Path obround(BoardPoint centre, double width_mm, double height_mm) {
    const double thin = std::min(width_mm, height_mm), reach = (std::max(width_mm, height_mm) - thin) / 2;
    if (reach <= 0) return circle(centre, thin);
    const bool wide = width_mm > height_mm;
    const BoardPoint a{centre.x_mm - (wide ? reach : 0), centre.y_mm - (wide ? 0 : reach)};
    const BoardPoint b{centre.x_mm + (wide ? reach : 0), centre.y_mm + (wide ? 0 : reach)};
    return sweep(circle({}, thin), a, b);
}

std::vector<BoardPoint> arcPoints(BoardPoint start, BoardPoint end, BoardPoint centre, bool clockwise) {
    const double a = std::atan2(start.y_mm - centre.y_mm, start.x_mm - centre.x_mm);
    const double b = std::atan2(end.y_mm - centre.y_mm, end.x_mm - centre.x_mm);
    const double ra = distance_mm(start, centre), rb = distance_mm(end, centre);
    double turn = clockwise ? a - b : b - a;
    constexpr double whole = 2 * std::numbers::pi, tiny = 1e-9;
    while (turn <= tiny)
        turn += whole;
    if (start == end) turn = whole;
    const int steps = std::max(1, static_cast<int>(std::ceil(cornersFor(std::max(ra, rb)) * turn / whole)));
    std::vector<BoardPoint> points;
    for (int i = 1; i < steps; ++i) {
        const double share = static_cast<double>(i) / steps, angle = a + (clockwise ? -1 : 1) * turn * share;
        // Files round: where both radii differ a little the arc goes from one to the other.
        const double r = ra + (rb - ra) * share;
        points.push_back({centre.x_mm + r * std::cos(angle), centre.y_mm + r * std::sin(angle)});
    }
    points.push_back(end);
    return points;
}

Paths stroke(const std::vector<BoardPoint>& line, double width_mm) {
    Path path;
    for (const BoardPoint p : line)
        path.push_back(nanometres(p.x_mm, p.y_mm));
    ClipperLib::ClipperOffset offset(2, chord_mm * perMillimetre);
    offset.AddPath(path, ClipperLib::jtRound, ClipperLib::etOpenRound);
    Paths covered;
    offset.Execute(covered, width_mm / 2 * perMillimetre);
    return covered;
}

Path sweep(const Path& shape, BoardPoint from, BoardPoint to) {
    // The hull of both ends, by Andrew's monotone chain.
    std::vector<IntPoint> points;
    for (const BoardPoint at : {from, to}) {
        const IntPoint shift = nanometres(at.x_mm, at.y_mm);
        for (const IntPoint p : shape)
            points.emplace_back(p.X + shift.X, p.Y + shift.Y);
    }
    std::sort(points.begin(), points.end(),
              [](IntPoint a, IntPoint b) { return a.X < b.X || (a.X == b.X && a.Y < b.Y); });
    const auto turnsRight = [](IntPoint o, IntPoint a, IntPoint b) {
        return static_cast<double>(a.X - o.X) * static_cast<double>(b.Y - o.Y) -
                   static_cast<double>(a.Y - o.Y) * static_cast<double>(b.X - o.X) <=
               0;
    };
    Path hull;
    for (int pass = 0; pass < 2; ++pass) {
        const std::size_t start = hull.size();
        for (const IntPoint p : points) {
            while (hull.size() >= start + 2 && turnsRight(hull[hull.size() - 2], hull.back(), p))
                hull.pop_back();
            hull.push_back(p);
        }
        hull.pop_back();
        std::reverse(points.begin(), points.end());
    }
    return hull;
}

Paths drag(const Path& shape, const std::vector<BoardPoint>& line) {
    std::vector<Paths> pieces;
    for (std::size_t k = 1; k < line.size(); ++k)
        pieces.push_back({sweep(shape, line[k - 1], line[k])});
    std::vector<const Paths*> all;
    for (const Paths& piece : pieces)
        all.push_back(&piece);
    return unite(all);
}

Paths unite(const Paths& shapes) {
    Paths united;
    ClipperLib::SimplifyPolygons(shapes, united, ClipperLib::pftNonZero);
    return united;
}

Paths unite(std::span<const Paths* const> shapes) {
    // In halves: files draw what lies together one after the other, and a sweep over few edges is quick.
    constexpr std::size_t atOnce = 32;
    Paths both;
    if (shapes.size() <= atOnce) {
        for (const Paths* shape : shapes)
            both.insert(both.end(), shape->begin(), shape->end());
    } else {
        both = unite(shapes.first(shapes.size() / 2));
        const Paths second = unite(shapes.subspan(shapes.size() / 2));
        both.insert(both.end(), second.begin(), second.end());
    }
    return unite(both);
}

Paths subtract(const Paths& from, const Paths& taken) {
    ClipperLib::Clipper clipper;
    clipper.AddPaths(from, ClipperLib::ptSubject, true);
    clipper.AddPaths(taken, ClipperLib::ptClip, true);
    Paths left;
    clipper.Execute(ClipperLib::ctDifference, left, ClipperLib::pftNonZero, ClipperLib::pftNonZero);
    return left;
}

double area_mm2(const Paths& shapes) {
    double sum = 0;
    for (const Path& path : shapes)
        sum += ClipperLib::Area(path);
    return sum / (perMillimetre * perMillimetre);
}

BoardPoint Placing::apply(BoardPoint p) const {
    if (plain()) return {shift.x_mm + p.x_mm, shift.y_mm + p.y_mm};
    if (mirrorX) p.x_mm = -p.x_mm;
    if (mirrorY) p.y_mm = -p.y_mm;
    const double c = scale * std::cos(radians(turn_deg)), s = scale * std::sin(radians(turn_deg));
    return {shift.x_mm + c * p.x_mm - s * p.y_mm, shift.y_mm + s * p.x_mm + c * p.y_mm};
}

Paths Placing::apply(const Paths& shapes) const {
    Paths placed = shapes;
    const IntPoint by = nanometres(shift.x_mm, shift.y_mm);
    for (Path& path : placed) {
        for (IntPoint& p : path) {
            if (plain()) {
                p = {p.X + by.X, p.Y + by.Y};
            } else {
                const BoardPoint moved = apply(millimetres(p));
                p = nanometres(moved.x_mm, moved.y_mm);
            }
        }
        // A single mirror turns outlines into holes.
        if (mirrorX != mirrorY) std::reverse(path.begin(), path.end());
    }
    return placed;
}

} // namespace ustor::plane
