#pragma once

#include "board/board.h"

#include <cstdint>
#include <vector>

namespace ustor::standin {

/// Heat in the laminate: finite volumes on a regular grid, three layers (both faces with their copper, the
/// core with the inner planes), copper that varies over the board, loss to air from both faces, insulated
/// rim. Rises in kelvin above the surroundings; explicit steps well inside the stability limit. Energy is
/// kept to rounding.
class BoardHeat {
  public:
    enum Layer { Top = 0, Core = 1, Bottom = 2 };

    BoardHeat(const BoardBox& box, double thickness_mm, int copperLayers, std::uint64_t seed);

    int columns() const { return m_columns; }
    int rows() const { return m_rows; }
    double cell_mm() const { return cellSize_mm; }
    double step_s() const { return m_step_s; }
    /// Index of the cell that holds a place, within one layer.
    int cellAt(BoardPoint p) const;
    BoardPoint centreOf(int cell) const;

    /// Joules into a cell of a layer during the next step.
    void addHeat(Layer layer, int cell, double joules) {
        m_inflow_j[layer][cell] += static_cast<float>(joules);
    }
    void step();

    const std::vector<float>& rise_k(Layer layer) const { return m_rise_k[layer]; }
    double storedJoules() const;
    double lostJoules() const { return m_lost_j; }

    static constexpr double cellSize_mm = 0.6;

  private:
    BoardBox m_box;
    int m_columns, m_rows;
    double m_step_s = 0, m_lost_j = 0;
    double m_capacity_j_k[3]{};               // of one cell
    std::vector<float> m_sheet_w_k[3];        // in-plane conductance of a square, by cell
    double m_through_w_k = 0, m_loss_w_k = 0; // of one cell
    std::vector<float> m_rise_k[3], m_inflow_j[3], m_next;
    std::vector<float> m_right_share[3],
        m_down_share[3];       // share of the difference that flows to a neighbour in one step
    std::vector<float> m_zero; // a row of no flow, beyond the rim
};

} // namespace ustor::standin
