#pragma once

#include "base/points.h"

#include <cmath>
#include <cstdint>
#include <vector>

namespace ustor::ipc2581 {

/// Places on a board in cells of a tenth of a millimetre, so that what lies at a point is found at once. Two
/// flat arrays: a file has a hundred thousand pads, and a list for each cell would cost more than reading it.
template <class T> class Spots {
  public:
    void add(BoardPoint at, const T& what) {
        if (m_spots.size() >= m_first.size()) grow();
        m_spots.push_back({at, what, -1});
        link(static_cast<int>(m_spots.size()) - 1);
    }
    /// Calls with all within a reach of up to half a cell: of the neighbours only the nearer ones count.
    template <class F> void near(BoardPoint at, double reach_mm, F with) const {
        if (m_first.empty()) return;
        const Cell cell = cellOf(at);
        const Cell beside{at.x_mm / cell_mm - static_cast<double>(cell.x) < 0.5 ? cell.x - 1 : cell.x + 1,
                          at.y_mm / cell_mm - static_cast<double>(cell.y) < 0.5 ? cell.y - 1 : cell.y + 1};
        for (const std::int64_t x : {cell.x, beside.x})
            for (const std::int64_t y : {cell.y, beside.y})
                for (int i = m_first[bucketOf({x, y})]; i >= 0; i = m_spots[i].next) {
                    const Spot& spot = m_spots[i];
                    const Cell own = cellOf(spot.at);
                    if (own.x == x && own.y == y && distance_mm(spot.at, at) <= reach_mm)
                        with(spot.at, spot.what);
                }
    }

  private:
    static constexpr double cell_mm = 0.1;
    struct Cell {
        std::int64_t x, y;
    };
    struct Spot {
        BoardPoint at;
        T what;
        int next; ///< in the same bucket; -1 at its end
    };
    static Cell cellOf(BoardPoint at) {
        return {static_cast<std::int64_t>(std::floor(at.x_mm / cell_mm)),
                static_cast<std::int64_t>(std::floor(at.y_mm / cell_mm))};
    }
    std::size_t bucketOf(Cell cell) const {
        // Multiplicative hashing (Knuth): boards lie on grids, whose low bits are all alike.
        constexpr std::uint64_t golden = 0x9E3779B97F4A7C15;
        const std::uint64_t mixed = (static_cast<std::uint64_t>(cell.x) * golden + //
                                     static_cast<std::uint64_t>(cell.y)) *
                                    golden;
        return static_cast<std::size_t>(mixed >> 32) & (m_first.size() - 1);
    }
    void link(int spot) {
        int& first = m_first[bucketOf(cellOf(m_spots[spot].at))];
        m_spots[spot].next = first;
        first = spot;
    }
    void grow() {
        constexpr std::size_t atFirst = 1024; // a power of two
        m_first.assign(m_first.empty() ? atFirst : 4 * m_first.size(), -1);
        for (int i = 0; i < static_cast<int>(m_spots.size()); ++i)
            link(i);
    }

    std::vector<Spot> m_spots;
    std::vector<int> m_first; ///< of each bucket; -1 where it is empty
};

} // namespace ustor::ipc2581
