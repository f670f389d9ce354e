#include "rail/guessed_copper.h"

#include <algorithm>
#include <cmath>

namespace ustor {

std::vector<PointPair> nearestNeighbours(const std::vector<BoardPoint>& points, std::size_t count) {
    std::vector<PointPair> pairs;
    for (std::size_t a = 0; a < points.size(); ++a) {
        std::vector<std::size_t> others;
        for (std::size_t b = 0; b < points.size(); ++b)
            if (b != a) others.push_back(b);
        const std::size_t kept = std::min(count, others.size());
        std::partial_sort(others.begin(), others.begin() + static_cast<long>(kept), others.end(),
                          [&](std::size_t x, std::size_t y) {
                              return distance_mm(points[a], points[x]) < distance_mm(points[a], points[y]);
                          });
        for (std::size_t k = 0; k < kept; ++k)
            pairs.emplace_back(std::min(a, others[k]), std::max(a, others[k]));
    }
    std::sort(pairs.begin(), pairs.end());
    pairs.erase(std::unique(pairs.begin(), pairs.end()), pairs.end());
    return pairs;
}

std::vector<PointPair> shortestTree(const std::vector<BoardPoint>& points) {
    constexpr double never = 1e300;
    std::vector<PointPair> tree;
    std::vector<bool> in(points.size(), false);
    std::vector<std::pair<double, std::size_t>> best(points.size(), {never, 0});
    for (std::size_t step = 0, at = 0; step < points.size(); ++step) {
        in[at] = true;
        std::size_t next = at;
        double least = never;
        for (std::size_t b = 0; b < points.size(); ++b) {
            if (in[b]) continue;
            const double away = distance_mm(points[at], points[b]);
            if (away < best[b].first) best[b] = {away, at};
            if (best[b].first < least) {
                least = best[b].first;
                next = b;
            }
        }
        if (next == at) break;
        tree.emplace_back(best[next].second, next);
        at = next;
    }
    return tree;
}

GuessedSheet::GuessedSheet(const Board& board, const std::vector<PadRef>& pads, int first) : m_first(first) {
    if (pads.empty()) return;
    BoardPoint low = board.pad(pads.front()).at, high = low;
    for (const PadRef ref : pads) {
        const BoardPoint p = board.pad(ref).at;
        low = {std::min(low.x_mm, p.x_mm), std::min(low.y_mm, p.y_mm)};
        high = {std::max(high.x_mm, p.x_mm), std::max(high.y_mm, p.y_mm)};
    }
    constexpr double margin_mm = 2, finest_mm = 1;
    constexpr double mostAcross = 120;
    const double width = high.x_mm - low.x_mm + 2 * margin_mm, height = high.y_mm - low.y_mm + 2 * margin_mm;
    m_cell_mm = std::max(finest_mm, std::max(width, height) / mostAcross);
    m_low = {low.x_mm - margin_mm, low.y_mm - margin_mm};
    m_columns = static_cast<int>(std::ceil(width / m_cell_mm));
    m_rows = static_cast<int>(std::ceil(height / m_cell_mm));
}

int GuessedSheet::at(BoardPoint point) const {
    const int x = static_cast<int>(std::floor((point.x_mm - m_low.x_mm) / m_cell_mm));
    const int y = static_cast<int>(std::floor((point.y_mm - m_low.y_mm) / m_cell_mm));
    return m_first + std::clamp(y, 0, m_rows - 1) * m_columns + std::clamp(x, 0, m_columns - 1);
}

} // namespace ustor
