#include "rail/copper_network.h"

#include "rail/copper.h"
#include "rail/copper_cells.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace ustor {
namespace {

/// The joint between a pad's metal and the copper it sits on: as good as none, and still well scaled.
constexpr double joint_ohms = 1e-6;

bool onLayer(const Pad& pad, std::size_t layer, std::size_t layers) {
    return pad.through || layer == (pad.side == Side::Top ? 0 : layers - 1);
}

class Builder {
  public:
    Builder(const Board& board, const Stretch& stretch, const CopperNetworkSettings& settings)
        : m_board(board), m_stretch(stretch), m_settings(settings) {}

    Result<CopperNetwork> build() {
        for (const NetIndex net : m_stretch.nets)
            for (const PadRef pad : m_board.padsOf(net))
                m_pads.push_back(pad);
        if (m_pads.empty()) return Error{"the rail has no pads", nameOf(m_board, m_stretch), ""};
        double copper_mm2 = 0;
        for (const CopperLayer& layer : m_board.copper)
            m_copper.push_back(united(layer, m_stretch.nets));
        for (const NetIndex net : m_stretch.nets) {
            const double here = areaOf(net);
            (here > 0 ? m_drawn : m_bare).push_back(net);
            copper_mm2 += here;
        }
        int nodes = 0;
        if (!m_drawn.empty()) {
            const BoardBox box = boxOfCopper();
            constexpr double largest_mm = 2000;
            if (std::max(box.width_mm(), box.height_mm()) > largest_mm)
                return Error{"its copper spans more than two metres: the board's file is broken",
                             nameOf(m_board, m_stretch), "nothing was computed"};
            cutCells(box, copper_mm2);
            for (const CopperCells& layer : m_layers)
                nodes += layer.count();
            m_out.cells = nodes;
        }
        for (const PadRef pad : m_pads)
            m_out.nodes[{pad.part, pad.pad}] = nodes++;
        m_out.network = ResistorNetwork(nodes);
        m_out.fromCopper = m_bare.empty();
        if (!m_drawn.empty()) joinCells();
        joinPads();
        for (const NetIndex net : m_bare)
            joinBarePads(net);
        joinLinks();
        if (!m_bare.empty())
            m_out.notes.push_back("no file gives the copper of " + m_board.nets[m_bare.front()].name +
                                  ": its way is guessed from where the pads lie");
        return std::move(m_out);
    }

  private:
    double areaOf(NetIndex net) const {
        double sum = 0;
        for (const CopperLayer& layer : m_copper)
            for (const CopperPiece& piece : layer.pieces)
                if (piece.net == net) sum += area_mm2(piece);
        return sum;
    }

    BoardBox boxOfCopper() const {
        constexpr double huge = std::numeric_limits<double>::max();
        BoardBox box{{huge, huge}, {-huge, -huge}};
        for (const CopperLayer& layer : m_copper)
            for (const CopperPiece& piece : layer.pieces)
                for (const BoardPoint p : piece.outline) {
                    box.low = {std::min(box.low.x_mm, p.x_mm), std::min(box.low.y_mm, p.y_mm)};
                    box.high = {std::max(box.high.x_mm, p.x_mm), std::max(box.high.y_mm, p.y_mm)};
                }
        return box;
    }

    void cutCells(const BoardBox& box, double copper_mm2) {
        constexpr double finest_mm = 0.05, coarsest_mm = 0.5;
        m_out.cell_mm = std::clamp(std::sqrt(copper_mm2 / m_settings.mostCells), finest_mm, coarsest_mm);
        int first = 0;
        for (const CopperLayer& layer : m_copper) {
            m_layers.emplace_back(layer, m_drawn, box, m_out.cell_mm, first);
            first += m_layers.back().count();
        }
    }

    void joinCells() {
        for (std::size_t i = 0; i < m_layers.size(); ++i) {
            const Ohms square =
                sheetResistance(m_board.copper[i].thickness_mm * 1e-3, m_settings.temperature);
            // Two square cells side by side are one square from middle to middle.
            m_layers[i].forNeighbours([&](int a, int b) { m_out.network.connect(a, b, square); });
        }
        for (const Via& via : m_board.vias)
            if (std::find(m_drawn.begin(), m_drawn.end(), via.net) != m_drawn.end())
                joinLayers(via.at, via.net, via.hole_mm);
    }

    /// A plated hole: its barrel joins the copper around it from layer to layer.
    void joinLayers(BoardPoint at, NetIndex net, double hole_mm) {
        constexpr double usual_mm = 0.3, rim_mm = 0.4;
        const double hole = hole_mm > 0 ? hole_mm : usual_mm;
        int before = -1;
        std::size_t layerBefore = 0;
        for (std::size_t i = 0; i < m_layers.size(); ++i) {
            const int here = m_layers[i].nearest(at, net, hole / 2 + rim_mm);
            if (here < 0) continue;
            if (before >= 0) m_out.network.connect(before, here, barrel(hole, i - layerBefore));
            before = here;
            layerBefore = i;
        }
    }

    Ohms barrel(double hole_mm, std::size_t gaps) const {
        const auto between = static_cast<double>(std::max<std::size_t>(1, m_layers.size() - 1));
        const double height_mm = m_board.thickness_mm * static_cast<double>(gaps) / between;
        return viaResistance(height_mm * 1e-3, hole_mm * 1e-3, m_settings.plating_mm * 1e-3);
    }

    void joinPads() {
        for (const PadRef ref : m_pads) {
            const Pad& pad = m_board.pad(ref);
            if (std::find(m_drawn.begin(), m_drawn.end(), pad.net) == m_drawn.end()) continue;
            const int node = m_out.nodeOf(ref);
            bool joined = false;
            for (std::size_t i = 0; i < m_layers.size(); ++i)
                if (onLayer(pad, i, m_layers.size())) joined = joinPad(pad, node, m_layers[i]) || joined;
            if (pad.through) joinLayers(pad.at, pad.net, pad.hole_mm);
            if (!joined) m_out.notes.push_back(m_board.placeOf(ref) + " lies on no copper of its net");
        }
    }

    bool joinPad(const Pad& pad, int node, const CopperCells& layer) {
        constexpr double usual_mm = 0.3, reach_mm = 0.6;
        // Turned pads: a box that holds for both ways is the smaller side.
        const double across = pad.width_mm > 0 ? std::min(pad.width_mm, pad.height_mm) : usual_mm;
        auto cells = layer.within(pad.at, across, across, pad.net);
        if (cells.empty())
            if (const int near = layer.nearest(pad.at, pad.net, std::max(reach_mm, pad.hole_mm)); near >= 0)
                cells = {near};
        for (const int cell : cells)
            m_out.network.connect(node, cell, Ohms(joint_ohms));
        return !cells.empty();
    }

    /// Without copper: each pad to its four nearest, and all of them together along the shortest tree.
    void joinBarePads(NetIndex net) {
        std::vector<PadRef> pads;
        for (const PadRef ref : m_pads)
            if (m_board.pad(ref).net == net) pads.push_back(ref);
        const auto away = [&](std::size_t a, std::size_t b) {
            constexpr double touching_mm = 0.3;
            return std::max(touching_mm, distance_mm(m_board.pad(pads[a]).at, m_board.pad(pads[b]).at));
        };
        const auto join = [&](std::size_t a, std::size_t b) {
            constexpr double width_mm = 3, foil_m = 35e-6;
            m_out.network.connect(m_out.nodeOf(pads[a]), m_out.nodeOf(pads[b]),
                                  sheetResistance(foil_m, m_settings.temperature) * (away(a, b) / width_mm));
        };
        constexpr std::size_t neighbours = 4;
        for (std::size_t a = 0; a < pads.size(); ++a) {
            std::vector<std::size_t> others;
            for (std::size_t b = 0; b < pads.size(); ++b)
                if (b != a) others.push_back(b);
            const std::size_t count = std::min(neighbours, others.size());
            std::partial_sort(others.begin(), others.begin() + static_cast<long>(count), others.end(),
                              [&](std::size_t x, std::size_t y) { return away(a, x) < away(a, y); });
            for (std::size_t k = 0; k < count; ++k)
                if (a < others[k]) join(a, others[k]);
        }
        // Prim's tree.
        std::vector<bool> in(pads.size(), false);
        std::vector<std::pair<double, std::size_t>> best(pads.size(), {1e300, 0});
        for (std::size_t step = 0, at = 0; step < pads.size(); ++step) {
            in[at] = true;
            std::size_t next = at;
            double least = 1e300;
            for (std::size_t b = 0; b < pads.size(); ++b) {
                if (in[b]) continue;
                if (away(at, b) < best[b].first) best[b] = {away(at, b), at};
                if (best[b].first < least) {
                    least = best[b].first;
                    next = b;
                }
            }
            if (next == at) break;
            join(best[next].second, next);
            at = next;
        }
    }

    void joinLinks() {
        for (const PartIndex link : m_stretch.links) {
            int before = -1;
            NetIndex netBefore = -1;
            const auto& pads = m_board.parts[link].pads;
            for (int i = 0; i < static_cast<int>(pads.size()); ++i) {
                const int node = m_out.nodeOf({link, i});
                if (node < 0 || pads[i].net == netBefore) continue;
                if (before >= 0) m_out.network.connect(before, node, m_settings.link);
                before = node;
                netBefore = pads[i].net;
            }
        }
    }

    const Board& m_board;
    const Stretch& m_stretch;
    const CopperNetworkSettings& m_settings;
    std::vector<PadRef> m_pads;
    std::vector<NetIndex> m_drawn, m_bare; ///< nets with copper and without
    std::vector<CopperLayer> m_copper;     ///< of the stretch, pieces that touch made one
    std::vector<CopperCells> m_layers;
    CopperNetwork m_out;
};

} // namespace

int CopperNetwork::nodeOf(PadRef pad) const {
    const auto found = nodes.find({pad.part, pad.pad});
    return found == nodes.end() ? -1 : found->second;
}

Result<CopperNetwork> copperNetwork(const Board& board, const Stretch& stretch,
                                    const CopperNetworkSettings& settings) {
    return Builder(board, stretch, settings).build();
}

} // namespace ustor
