#include "rail/copper_cells.h"

#include <algorithm>
#include <cmath>

namespace ustor {

CopperCells::CopperCells(const CopperLayer& layer, const std::vector<NetIndex>& nets, const BoardBox& box,
                         double cell_mm, int first)
    : m_cell_mm(cell_mm), m_low(box.low),
      m_columns(static_cast<int>(std::ceil(box.width_mm() / cell_mm)) + 1),
      m_rows(static_cast<int>(std::ceil(box.height_mm() / cell_mm)) + 1),
      m_cells(static_cast<std::size_t>(m_columns) * static_cast<std::size_t>(m_rows)) {
    for (const CopperPiece& piece : layer.pieces) {
        m_netOfPiece.push_back(piece.net);
        if (std::find(nets.begin(), nets.end(), piece.net) != nets.end())
            fill(piece, static_cast<int>(m_netOfPiece.size()) - 1, first);
    }
}

BoardPoint CopperCells::middle(int x, int y) const {
    return {m_low.x_mm + (x + 0.5) * m_cell_mm, m_low.y_mm + (y + 0.5) * m_cell_mm};
}

void CopperCells::fill(const CopperPiece& piece, int index, int first) {
    // Row by row: where the row's middle line crosses the outline and the holes, inside and outside change.
    std::vector<std::vector<double>> crossings(static_cast<std::size_t>(m_rows));
    const auto cross = [&](const std::vector<BoardPoint>& path) {
        for (std::size_t i = 0, j = path.size() - 1; i < path.size(); j = i++) {
            const BoardPoint& a = path[j].y_mm < path[i].y_mm ? path[j] : path[i];
            const BoardPoint& b = path[j].y_mm < path[i].y_mm ? path[i] : path[j];
            const int low = std::max(0, static_cast<int>(std::ceil((a.y_mm - m_low.y_mm) / m_cell_mm - 0.5)));
            for (int y = low; y < m_rows && middle(0, y).y_mm < b.y_mm; ++y)
                crossings[static_cast<std::size_t>(y)].push_back(
                    a.x_mm + (middle(0, y).y_mm - a.y_mm) / (b.y_mm - a.y_mm) * (b.x_mm - a.x_mm));
        }
    };
    cross(piece.outline);
    for (const auto& hole : piece.holes)
        cross(hole);
    for (int y = 0; y < m_rows; ++y) {
        auto& row = crossings[static_cast<std::size_t>(y)];
        std::sort(row.begin(), row.end());
        for (std::size_t k = 0; k + 1 < row.size(); k += 2) {
            const int from =
                std::max(0, static_cast<int>(std::ceil((row[k] - m_low.x_mm) / m_cell_mm - 0.5)));
            for (int x = from; x < m_columns && middle(x, y).x_mm < row[k + 1]; ++x) {
                Cell& here = m_cells[static_cast<std::size_t>(y) * m_columns + x];
                if (here.number < 0) here = {first + m_count++, index};
            }
        }
    }
}

int CopperCells::at(BoardPoint point) const {
    const int x = static_cast<int>(std::floor((point.x_mm - m_low.x_mm) / m_cell_mm));
    const int y = static_cast<int>(std::floor((point.y_mm - m_low.y_mm) / m_cell_mm));
    return x < 0 || y < 0 || x >= m_columns || y >= m_rows ? -1 : cell(x, y).number;
}

int CopperCells::nearest(BoardPoint point, NetIndex net, double reach_mm) const {
    int best = -1;
    double least = reach_mm;
    const int x0 = static_cast<int>((point.x_mm - m_low.x_mm) / m_cell_mm),
              y0 = static_cast<int>((point.y_mm - m_low.y_mm) / m_cell_mm);
    const int reach = static_cast<int>(std::ceil(reach_mm / m_cell_mm)) + 1;
    for (int y = std::max(0, y0 - reach); y <= std::min(m_rows - 1, y0 + reach); ++y)
        for (int x = std::max(0, x0 - reach); x <= std::min(m_columns - 1, x0 + reach); ++x) {
            const Cell& here = cell(x, y);
            if (here.number < 0 || m_netOfPiece[static_cast<std::size_t>(here.piece)] != net) continue;
            if (const double away = distance_mm(middle(x, y), point); away <= least) {
                least = away;
                best = here.number;
            }
        }
    return best;
}

std::vector<int> CopperCells::within(BoardPoint centre, double width_mm, double height_mm,
                                     NetIndex net) const {
    std::vector<int> found;
    const auto index = [&](double mm, double low) {
        return static_cast<int>(std::floor((mm - low) / m_cell_mm));
    };
    const int x0 = std::max(0, index(centre.x_mm - width_mm / 2, m_low.x_mm));
    const int x1 = std::min(m_columns - 1, index(centre.x_mm + width_mm / 2, m_low.x_mm));
    const int y0 = std::max(0, index(centre.y_mm - height_mm / 2, m_low.y_mm));
    const int y1 = std::min(m_rows - 1, index(centre.y_mm + height_mm / 2, m_low.y_mm));
    for (int y = y0; y <= y1; ++y)
        for (int x = x0; x <= x1; ++x)
            if (const Cell& here = cell(x, y); here.number >= 0 &&
                                               m_netOfPiece[static_cast<std::size_t>(here.piece)] == net &&
                                               std::fabs(middle(x, y).x_mm - centre.x_mm) <= width_mm / 2 &&
                                               std::fabs(middle(x, y).y_mm - centre.y_mm) <= height_mm / 2)
                found.push_back(here.number);
    return found;
}

} // namespace ustor
