#pragma once

#include "base/points.h"
#include "base/random.h"

#include <array>
#include <opencv2/core.hpp>
#include <vector>

namespace ustor::testing {

/// Heat in a board as finite volumes: layers through its thickness, the outer ones and two inner ones with
/// copper that varies and has slots, laminate between them; loss to air from both faces. Heat that crosses
/// comes with the slab's own lateness (thermal time d^2 / (pi^2 alpha) between 0.3 and 1 s). Rises in kelvin.
/// Explicit steps within the stability limit; energy is kept to rounding but for the loss.
class LayeredPlate {
  public:
    enum Face { Near, Far };
    LayeredPlate(double width_mm, double height_mm, Random& random);

    double step_s() const { return m_step_s; }
    double throughTime_s() const { return m_throughTime_s; } ///< of the slab
    void step();
    /// Joules spread over a square around a place.
    void addHeat(Face face, BoardPoint at, double reach_mm, double joules);
    /// Joules spread evenly through all layers, falling off towards a radius.
    void addArea(BoardPoint middle, double reach_mm, double joules);
    /// Makes a place warm through and through, as hot air does.
    void warm(BoardPoint middle, double reach_mm, double peak_k);
    double rise_k(Face face, BoardPoint at) const; ///< between cells, linear
    /// The face in pixels whose first middle is (0, 0) mm.
    cv::Mat picture(Face face, int width, int height, double mmPerPixel) const;
    double storedJoules() const;
    double lostJoules() const { return m_lost_j; }

  private:
    static constexpr int layers = 6;
    static constexpr double cell_mm = 0.8, margin_mm = 6; ///< the board goes on beyond the picture
    double columnOf(double x_mm) const { return (x_mm + margin_mm) / cell_mm - 0.5; }
    static std::size_t layerOf(Face face) { return face == Near ? 0 : layers - 1; }
    cv::Mat copper(double mean_w_k, double bare_w_k, Random& random) const;
    void stepRow(std::size_t layer, int y, float* out) const;

    int m_columns, m_rows;
    double m_step_s = 0, m_throughTime_s = 0, m_capacity_j_k = 0, m_lost_j = 0; ///< capacity of one cell
    float m_through = 0, m_loss = 0; ///< shares of a difference in one step
    std::array<cv::Mat, layers> m_rise, m_next, m_right,
        m_down; ///< the latter two: shares that flow to a neighbour in one step
};

} // namespace ustor::testing
