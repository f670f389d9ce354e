#include "board/gerber/shift_match.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>
#include <utility>

namespace ustor::gerber {
namespace {

constexpr double near_mm = 0.1;
using Cell = std::pair<long, long>;

Cell cellOf(BoardPoint p) {
    return {std::lround(p.x_mm / near_mm), std::lround(p.y_mm / near_mm)};
}

/// Evenly spread over the set: some hundred points tell a shift as well as all of them.
std::vector<BoardPoint> sample(const std::vector<BoardPoint>& points, std::size_t most) {
    if (points.size() <= most) return points;
    std::vector<BoardPoint> some;
    for (std::size_t i = 0; i < most; ++i)
        some.push_back(points[i * points.size() / most]);
    return some;
}

int agreeing(const std::vector<BoardPoint>& points, const std::set<Cell>& others, BoardPoint shift) {
    int count = 0;
    for (const BoardPoint p : points) {
        const auto [x, y] = cellOf({p.x_mm + shift.x_mm, p.y_mm + shift.y_mm});
        bool near = false;
        for (long dx = -1; dx <= 1 && !near; ++dx)
            for (long dy = -1; dy <= 1 && !near; ++dy)
                near = others.contains({x + dx, y + dy});
        count += near;
    }
    return count;
}

} // namespace

std::optional<BoardPoint> shiftBetween(const std::vector<BoardPoint>& points,
                                       const std::vector<BoardPoint>& others) {
    constexpr std::size_t most = 400;
    constexpr int fewest = 3;
    const auto some = sample(points, most), rest = sample(others, 8 * most);
    std::set<Cell> cells;
    for (const BoardPoint p : others)
        cells.insert(cellOf(p));
    const int wanted = std::max(fewest, static_cast<int>(std::min(some.size(), others.size()) / 2));
    if (agreeing(some, cells, {}) >= wanted) return BoardPoint{};
    std::map<Cell, int> votes;
    const auto few = sample(points, 60);
    for (const BoardPoint p : few)
        for (const BoardPoint q : rest)
            ++votes[cellOf({q.x_mm - p.x_mm, q.y_mm - p.y_mm})];
    if (votes.empty()) return std::nullopt;
    const auto best = std::max_element(votes.begin(), votes.end(),
                                       [](const auto& a, const auto& b) { return a.second < b.second; });
    const BoardPoint rough{static_cast<double>(best->first.first) * near_mm,
                           static_cast<double>(best->first.second) * near_mm};
    if (agreeing(some, cells, rough) < wanted) return std::nullopt;
    // Many points in one heap may all fall on one place: that says nothing.
    std::set<Cell> own;
    for (const BoardPoint p : points)
        own.insert(cellOf(p));
    if (agreeing(rest, own, {-rough.x_mm, -rough.y_mm}) < fewest) return std::nullopt;
    // Finer: the median of what is left between the pairs.
    std::vector<double> dx, dy;
    for (const BoardPoint p : few)
        for (const BoardPoint q : rest) {
            const double x = q.x_mm - p.x_mm, y = q.y_mm - p.y_mm;
            if (std::fabs(x - rough.x_mm) > near_mm || std::fabs(y - rough.y_mm) > near_mm) continue;
            dx.push_back(x);
            dy.push_back(y);
        }
    if (dx.empty()) return rough;
    const auto middle = static_cast<long>(dx.size() / 2);
    std::nth_element(dx.begin(), dx.begin() + middle, dx.end());
    std::nth_element(dy.begin(), dy.begin() + middle, dy.end());
    return BoardPoint{dx[static_cast<std::size_t>(middle)], dy[static_cast<std::size_t>(middle)]};
}

} // namespace ustor::gerber
