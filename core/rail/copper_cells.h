#pragma once

#include "board/board.h"

#include <vector>

namespace ustor {

/// One layer's copper of some nets as square cells on a common grid.
class CopperCells {
  public:
    /// Cells whose middle lies on a piece of one of the nets; numbered from `first` on.
    CopperCells(const CopperLayer& layer, const std::vector<NetIndex>& nets, const BoardBox& box,
                double cell_mm, int first);

    int count() const { return m_count; }
    int columns() const { return m_columns; }
    int rows() const { return m_rows; }
    double cell_mm() const { return m_cell_mm; }
    /// Number of the cell in a column and row, -1 without copper; and its middle.
    int number(int x, int y) const { return cell(x, y).number; }
    BoardPoint middle(int x, int y) const;
    /// Number of the cell that holds a point; -1 without copper there.
    int at(BoardPoint point) const;
    /// The nearest cell of a net within a reach; -1 when there is none.
    int nearest(BoardPoint point, NetIndex net, double reach_mm) const;
    /// All cells of a net with their middle in a box around a point.
    std::vector<int> within(BoardPoint centre, double width_mm, double height_mm, NetIndex net) const;

    /// Calls `with(a, b, at)` for each two neighbours of one piece; `at` is the middle of the first.
    template <class F> void forNeighbours(F with) const {
        for (int y = 0; y < m_rows; ++y)
            for (int x = 0; x < m_columns; ++x) {
                const Cell& here = cell(x, y);
                if (here.number < 0) continue;
                if (x + 1 < m_columns && cell(x + 1, y).piece == here.piece && cell(x + 1, y).number >= 0)
                    with(here.number, cell(x + 1, y).number, middle(x, y));
                if (y + 1 < m_rows && cell(x, y + 1).piece == here.piece && cell(x, y + 1).number >= 0)
                    with(here.number, cell(x, y + 1).number, middle(x, y));
            }
    }

  private:
    struct Cell {
        int number = -1, piece = -1;
    };
    void fill(const CopperPiece& piece, int index, int first);
    const Cell& cell(int x, int y) const { return m_cells[static_cast<std::size_t>(y) * m_columns + x]; }

    double m_cell_mm;
    BoardPoint m_low;
    int m_columns = 0, m_rows = 0, m_count = 0;
    std::vector<Cell> m_cells;
    std::vector<NetIndex> m_netOfPiece;
};

} // namespace ustor
