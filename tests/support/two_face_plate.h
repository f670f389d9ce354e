#pragma once

#include "base/points.h"
#include "base/random.h"

#include <opencv2/core.hpp>
#include <vector>

namespace ustor::testing {

/// Heat in a board as finite volumes: two faces, each with copper that varies and has slots, half of the
/// laminate with each; conductance through the board between them; loss to air. Rises in kelvin. Explicit
/// steps within the stability limit; energy is kept to rounding but for the loss.
class TwoFacePlate {
  public:
    enum Face { Near = 0, Far = 1 };
    TwoFacePlate(double width_mm, double height_mm, Random& random);

    double step_s() const { return m_step_s; }
    void step();
    /// Joules spread over a square around a place.
    void addHeat(Face face, BoardPoint at, double reach_mm, double joules);
    /// Joules spread evenly inside of both faces, falling off towards a radius.
    void addArea(BoardPoint middle, double reach_mm, double joules);
    /// Makes a place warm from outside, as hot air does.
    void warm(Face face, BoardPoint middle, double reach_mm, double peak_k);
    double rise_k(Face face, BoardPoint at) const; ///< between cells, linear
    /// The face in pixels whose first middle is (0, 0) mm.
    cv::Mat picture(Face face, int width, int height, double mmPerPixel) const;
    double storedJoules() const;
    double lostJoules() const { return m_lost_j; }

  private:
    static constexpr double cell_mm = 0.8, margin_mm = 6; ///< the board goes on beyond the picture
    double columnOf(double x_mm) const { return (x_mm + margin_mm) / cell_mm - 0.5; }

    int m_columns, m_rows;
    double m_step_s = 0, m_capacity_j_k = 0, m_lost_j = 0; ///< capacity of one cell of one face
    float m_through = 0, m_loss = 0;                       ///< shares of a difference in one step
    cv::Mat m_rise[2], m_right[2], m_down[2];              ///< shares that flow to a neighbour in one step
};

} // namespace ustor::testing
