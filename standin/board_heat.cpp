#include "standin/board_heat.h"

#include "base/random.h"

#include <Eigen/Core>
#include <algorithm>
#include <cmath>

namespace ustor::standin {
namespace {

constexpr double copper_w_mk = 395, laminatePlane_w_mk = 0.8, laminateThrough_w_mk = 0.3;
constexpr double heatCapacity_j_m3k = 2e6, loss_w_m2k = 10, foil_m = 35e-6;

/// A smooth random field between low and high: copper pours and bare areas.
std::vector<float> copperField(int columns, int rows, double low, double high, Random& random) {
    constexpr int coarse = 9;
    const int cw = columns / coarse + 3, ch = rows / coarse + 3;
    std::vector<double> knots(static_cast<std::size_t>(cw * ch));
    for (double& k : knots)
        k = random.uniform(low, high);
    std::vector<float> field(static_cast<std::size_t>(columns * rows));
    for (int y = 0; y < rows; ++y)
        for (int x = 0; x < columns; ++x) {
            const double fx = static_cast<double>(x) / coarse, fy = static_cast<double>(y) / coarse;
            const int ix = static_cast<int>(fx), iy = static_cast<int>(fy);
            const double u = fx - ix, v = fy - iy;
            const auto knot = [&](int i, int j) {
                return knots[static_cast<std::size_t>((iy + j) * cw + ix + i)];
            };
            field[static_cast<std::size_t>(y * columns + x)] =
                static_cast<float>((knot(0, 0) * (1 - u) + knot(1, 0) * u) * (1 - v) +
                                   (knot(0, 1) * (1 - u) + knot(1, 1) * u) * v);
        }
    return field;
}

} // namespace

BoardHeat::BoardHeat(const BoardBox& box, double thickness_mm, int copperLayers, std::uint64_t seed)
    : m_box(box), m_columns(std::max(8, static_cast<int>(std::ceil(box.width_mm() / cellSize_mm)))),
      m_rows(std::max(8, static_cast<int>(std::ceil(box.height_mm() / cellSize_mm)))) {
    Random random(seed ^ 0x51eedULL);
    const double cell_m = cellSize_mm * 1e-3, area_m2 = cell_m * cell_m, thickness_m = thickness_mm * 1e-3;
    const double share[3] = {0.25, 0.5, 0.25};
    const int inner = std::max(0, (copperLayers > 0 ? copperLayers : 4) - 2);
    const std::size_t cells = static_cast<std::size_t>(m_columns * m_rows);
    double stiffest = 0;
    for (int layer = 0; layer < 3; ++layer) {
        m_capacity_j_k[layer] = heatCapacity_j_m3k * share[layer] * thickness_m * area_m2;
        const double foils = layer == Core ? inner : 1;
        const auto fill = copperField(m_columns, m_rows, layer == Core ? 0.5 : 0.15, 0.95, random);
        m_sheet_w_k[layer].resize(cells);
        for (std::size_t i = 0; i < cells; ++i)
            m_sheet_w_k[layer][i] = static_cast<float>(copper_w_mk * foil_m * foils * fill[i] +
                                                       laminatePlane_w_mk * share[layer] * thickness_m);
        m_right_share[layer].assign(cells, 0);
        m_down_share[layer].assign(cells, 0);
        const auto series = [&](std::size_t a, std::size_t b) {
            const float ga = m_sheet_w_k[layer][a], gb = m_sheet_w_k[layer][b];
            return 2 * ga * gb / (ga + gb);
        };
        for (int y = 0; y < m_rows; ++y)
            for (int x = 0; x < m_columns; ++x) {
                const auto i = static_cast<std::size_t>(y * m_columns + x);
                if (x + 1 < m_columns) m_right_share[layer][i] = series(i, i + 1);
                if (y + 1 < m_rows)
                    m_down_share[layer][i] = series(i, i + static_cast<std::size_t>(m_columns));
            }
        const double most = *std::max_element(m_sheet_w_k[layer].begin(), m_sheet_w_k[layer].end());
        stiffest = std::max(stiffest, 4 * most / m_capacity_j_k[layer]);
        // Not quite zero: the heat's faint front would otherwise be denormal numbers, which processors handle
        // a hundred times slower.
        m_rise_k[layer].assign(cells, 1e-9F);
        m_inflow_j[layer].assign(cells, 0);
    }
    m_next.resize(cells);
    m_through_w_k =
        laminateThrough_w_mk / (0.375 * thickness_m) * area_m2 * 1.5; // half as much again through vias
    m_loss_w_k = loss_w_m2k * area_m2;
    constexpr double safety = 0.45;
    m_step_s = safety / (stiffest / 2 + 2 * m_through_w_k / m_capacity_j_k[0]);
    m_step_s = std::min(m_step_s, 0.01);
    for (int layer = 0; layer < 3; ++layer) {
        const float perCell = static_cast<float>(m_step_s / m_capacity_j_k[layer]);
        for (float& g : m_right_share[layer])
            g *= perCell;
        for (float& g : m_down_share[layer])
            g *= perCell;
    }
    m_zero.assign(static_cast<std::size_t>(m_columns), 0);
}

int BoardHeat::cellAt(BoardPoint p) const {
    const int x = std::clamp(static_cast<int>((p.x_mm - m_box.low.x_mm) / cellSize_mm), 0, m_columns - 1);
    const int y = std::clamp(static_cast<int>((p.y_mm - m_box.low.y_mm) / cellSize_mm), 0, m_rows - 1);
    return y * m_columns + x;
}

BoardPoint BoardHeat::centreOf(int cell) const {
    const int row = cell / m_columns, column = cell % m_columns;
    return {m_box.low.x_mm + (column + 0.5) * cellSize_mm, m_box.low.y_mm + (row + 0.5) * cellSize_mm};
}

// Twice for the compiler: for processors that take eight cells at once, and for the others. The numbers are
// the same.
__attribute__((target_clones("avx2", "default"))) void BoardHeat::step() {
    const float dt = static_cast<float>(m_step_s);
    const std::size_t cells = m_next.size(), width = static_cast<std::size_t>(m_columns);
    const float through = static_cast<float>(m_through_w_k) * dt, loss = static_cast<float>(m_loss_w_k) * dt;
    double lost = 0;
    // Through the board first, between whole layers.
    for (int layer = 0; layer < 2; ++layer) {
        const float up = through / static_cast<float>(m_capacity_j_k[layer]),
                    down = through / static_cast<float>(m_capacity_j_k[layer + 1]);
        float *a = m_rise_k[layer].data(), *b = m_rise_k[layer + 1].data();
        for (std::size_t i = 0; i < cells; ++i) {
            const float flow = a[i] - b[i];
            a[i] -= flow * up;
            b[i] += flow * down;
        }
    }
    for (int layer = 0; layer < 3; ++layer) {
        const float perJoule = 1 / static_cast<float>(m_capacity_j_k[layer]);
        float* __restrict rise = m_rise_k[layer].data();
        float* __restrict inflow = m_inflow_j[layer].data();
        float* __restrict next = m_next.data();
        const float* __restrict right = m_right_share[layer].data();
        const float* __restrict below = m_down_share[layer].data();
        // Gathered, not scattered, so that the compiler can take many cells at once. What flows out to the
        // right of one cell is the same number that flows into the next: no heat is lost to rounding but the
        // last bit.
        for (std::size_t row = 0; row < static_cast<std::size_t>(m_rows); ++row) {
            const std::size_t from = row * width, to = from + width;
            const float* up = row > 0 ? rise + from - width : rise + from;
            const float* upShare = row > 0 ? below + from - width : m_zero.data();
            const float* down = to < cells ? rise + to : rise + from;
            const float* downShare = to < cells ? below + from : m_zero.data();
            for (std::size_t x = 0; x < width; ++x) {
                const float here = rise[from + x];
                next[from + x] = here + upShare[x] * (up[x] - here) + downShare[x] * (down[x] - here);
            }
            for (std::size_t i = from; i + 1 < to; ++i)
                next[i] += right[i] * (rise[i + 1] - rise[i]);
            for (std::size_t i = from + 1; i < to; ++i)
                next[i] += right[i - 1] * (rise[i - 1] - rise[i]);
        }
        const float lossShare = layer == Core ? 0 : loss * perJoule;
        const float sum = Eigen::Map<const Eigen::ArrayXf>(next, static_cast<Eigen::Index>(cells)).sum();
        for (std::size_t i = 0; i < cells; ++i)
            rise[i] = next[i] - next[i] * lossShare + inflow[i] * perJoule;
        std::fill(inflow, inflow + cells, 0.0F);
        lost += static_cast<double>(sum * lossShare) * m_capacity_j_k[layer];
    }
    m_lost_j += lost;
}

double BoardHeat::storedJoules() const {
    double joules = 0;
    for (int layer = 0; layer < 3; ++layer)
        for (const float rise : m_rise_k[layer])
            joules += static_cast<double>(rise) * m_capacity_j_k[layer];
    return joules;
}

} // namespace ustor::standin
