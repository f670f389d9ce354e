#pragma once

#include "board/board.h"

#include <utility>
#include <vector>

namespace ustor {

using PointPair = std::pair<std::size_t, std::size_t>;

/// Each point with its `count` nearest others, each pair once.
std::vector<PointPair> nearestNeighbours(const std::vector<BoardPoint>& points, std::size_t count);
/// The shortest tree through all points (Prim).
std::vector<PointPair> shortestTree(const std::vector<BoardPoint>& points);

/// A solid sheet under some pads, with a margin, as square cells of a millimetre or more.
class GuessedSheet {
  public:
    /// Cells are numbered from `first` on.
    GuessedSheet(const Board& board, const std::vector<PadRef>& pads, int first);
    int count() const { return m_columns * m_rows; }
    /// The cell that holds a point; points beside the sheet take the nearest.
    int at(BoardPoint point) const;

    /// Calls `with(a, b, at)` for each two neighbours; `at` is the middle of the first.
    template <class F> void forNeighbours(F with) const {
        for (int y = 0; y < m_rows; ++y)
            for (int x = 0; x < m_columns; ++x) {
                const int here = m_first + y * m_columns + x;
                const BoardPoint at{m_low.x_mm + (x + 0.5) * m_cell_mm, m_low.y_mm + (y + 0.5) * m_cell_mm};
                if (x + 1 < m_columns) with(here, here + 1, at);
                if (y + 1 < m_rows) with(here, here + m_columns, at);
            }
    }

  private:
    int m_first, m_columns = 1, m_rows = 1;
    double m_cell_mm = 1;
    BoardPoint m_low;
};

} // namespace ustor
