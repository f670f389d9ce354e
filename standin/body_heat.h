#pragma once

#include "board/board.h"
#include "standin/board_heat.h"

#include <vector>

namespace ustor::standin {

/// Bodies of small parts as lumps of heat on the board: what a camera sees of a capacitor is its body, not
/// the laminate under it. Large parts are left to the laminate, with their heat spread over a die.
class BodyHeat {
  public:
    BodyHeat(const Board& board, const BoardHeat& laminate);

    /// Watts into a part at a place of its body, for the next step.
    void addPower(PartIndex part, BoardPoint at, double watts, BoardHeat& laminate);
    /// One step of the laminate's length: exchange between bodies and the cells below.
    void exchange(BoardHeat& laminate);

    /// Surface temperature rise of one side as the camera meets it, by cell: laminate with bodies on top.
    void paint(Side side, const BoardHeat& laminate, std::vector<float>& surface_k) const;
    double storedJoules() const;

  private:
    struct Body {
        BoardHeat::Layer layer = BoardHeat::Top;
        double capacity_j_k = 0, contact_w_k = 0, rise_k = 0, inflow_w = 0;
        std::vector<std::pair<int, float>> cover; ///< cell, share of the cell that the body covers
        double coverSum = 0;
    };
    std::vector<Body> m_bodies; // by part; large parts have no cover
    std::vector<Part> m_parts;
};

} // namespace ustor::standin
