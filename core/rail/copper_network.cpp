#include "rail/copper_network.h"
#include "base/input_bounds.h"

#include "rail/copper.h"
#include "rail/copper_cells.h"
#include "rail/guessed_copper.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <tuple>

namespace ustor {
namespace {

/// The joint between a pad's metal and the copper it sits on: as good as none, and still well scaled.
constexpr double joint_ohms = 1e-6;
constexpr double guessedFoil_m = 35e-6;

bool onLayer(const Pad& pad, std::size_t layer, std::size_t layers) {
    return pad.through || layer == (pad.side == Side::Top ? 0 : layers - 1);
}

/// How far copper may be off its sheet resistance from place to place (etching, finish, the cells' rims),
/// plating its thickness, a link its resistance, a guess the truth: shares, common practice.
constexpr double copperDoubt = 0.08, platingDoubt = 0.25, linkDoubt = 0.7, guessDoubt = 0.6;

/// Regions of the board that may be off together.
class Regions {
  public:
    explicit Regions(const BoardBox& box) : m_box(box) {}
    int tile(int layer, BoardPoint at, double doubt) {
        constexpr int across = 6;
        const auto index = [](double mm, double low, double size) {
            return std::clamp(static_cast<int>(across * (mm - low) / std::max(size, 1e-3)), 0, across - 1);
        };
        const auto place = std::tuple(layer, index(at.x_mm, m_box.low.x_mm, m_box.width_mm()),
                                      index(at.y_mm, m_box.low.y_mm, m_box.height_mm()));
        const auto [found, fresh] = m_tiles.emplace(place, static_cast<int>(m_doubts.size()));
        if (fresh) m_doubts.push_back(doubt);
        return found->second;
    }
    /// A region of one edge; on large nets edges share them.
    int own(double doubt) {
        constexpr int most = 160;
        const int next = m_owned++;
        if (next >= most) return m_ownRegions[static_cast<std::size_t>(next % most)];
        m_doubts.push_back(doubt);
        m_ownRegions.push_back(static_cast<int>(m_doubts.size()) - 1);
        return m_ownRegions.back();
    }
    const std::vector<double>& doubts() const { return m_doubts; }

  private:
    BoardBox m_box;
    std::map<std::tuple<int, int, int>, int> m_tiles;
    std::vector<double> m_doubts;
    std::vector<int> m_ownRegions;
    int m_owned = 0;
};
constexpr int holes = -1, guessed = -2; ///< layers of tiles beside the copper's own
constexpr int exact = -1;

class Builder {
  public:
    Builder(const Board& board, const Stretch& stretch, const CopperNetworkSettings& settings)
        : m_board(board), m_stretch(stretch), m_settings(settings), m_regions(board.box()) {}

    Result<CopperNetwork> build() {
        for (const NetIndex net : m_stretch.nets)
            for (const PadRef pad : m_board.padsOf(net))
                m_pads.push_back(pad);
        if (m_pads.empty()) return Error{say("the rail has no pads"), nameOf(m_board, m_stretch), {}};
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
            if (std::max(box.width_mm(), box.height_mm()) > bounds::span_mm)
                return Error{say("its copper spans more than two metres: the board's file is broken"),
                             nameOf(m_board, m_stretch), say("nothing was computed")};
            cutCells(box, copper_mm2);
            for (const CopperCells& layer : m_layers)
                nodes += layer.count();
            m_out.cells = nodes;
        }
        for (const PadRef pad : m_pads)
            m_out.nodes[{pad.part, pad.pad}] = nodes++;
        if (m_settings.guess == CopperGuess::Sheet)
            for (const NetIndex net : m_bare) {
                m_sheets.emplace_back(m_board, padsOn(net), nodes);
                nodes += m_sheets.back().count();
            }
        m_out.network = ResistorNetwork(nodes);
        m_out.fromCopper = m_bare.empty();
        if (!m_drawn.empty()) joinCells();
        joinPads();
        joinBare();
        joinLinks();
        if (!m_bare.empty())
            m_out.notes.push_back(
                say("no file gives the copper of {net}: its way is guessed from where the pads lie",
                    {{"net", m_board.nets[m_bare.front()].name}}));
        m_out.regionDoubt = m_regions.doubts();
        m_out.layers = std::move(m_layers);
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
        m_out.cell_mm = m_settings.cell_mm > 0 ? m_settings.cell_mm
                                               : std::clamp(std::sqrt(copper_mm2 / m_settings.mostCells),
                                                            finest_mm, coarsest_mm);
        int first = 0;
        for (const CopperLayer& layer : m_copper) {
            m_layers.emplace_back(layer, m_drawn, box, m_out.cell_mm, first);
            first += m_layers.back().count();
        }
    }

    void join(int a, int b, Ohms resistance, int region) {
        if (a == b) return;
        m_out.network.connect(a, b, resistance);
        m_out.regionOf.push_back(region);
    }

    void joinCells() {
        for (std::size_t i = 0; i < m_layers.size(); ++i) {
            const Ohms square =
                sheetResistance(m_board.copper[i].thickness_mm * 1e-3, m_settings.temperature);
            // Two square cells side by side are one square from middle to middle.
            m_layers[i].forNeighbours([&](int a, int b, BoardPoint at) {
                join(a, b, square, m_regions.tile(static_cast<int>(i), at, copperDoubt));
            });
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
            if (before >= 0)
                join(before, here, barrel(hole, i - layerBefore), m_regions.tile(holes, at, platingDoubt));
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
            if (!joined)
                m_out.notes.push_back(
                    say("{ref} lies on no copper of its net", {{"ref", m_board.placeOf(ref)}}));
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
            join(node, cell, Ohms(joint_ohms), exact);
        return !cells.empty();
    }

    std::vector<PadRef> padsOn(NetIndex net) const {
        std::vector<PadRef> pads;
        for (const PadRef ref : m_pads)
            if (m_board.pad(ref).net == net) pads.push_back(ref);
        return pads;
    }

    void joinBare() {
        for (std::size_t i = 0; i < m_bare.size(); ++i)
            if (m_settings.guess == CopperGuess::Sheet)
                joinToSheet(padsOn(m_bare[i]), m_sheets[i]);
            else
                joinAsTraces(padsOn(m_bare[i]));
    }

    void joinToSheet(const std::vector<PadRef>& pads, const GuessedSheet& sheet) {
        const Ohms square = sheetResistance(guessedFoil_m, m_settings.temperature);
        sheet.forNeighbours([&](int a, int b, BoardPoint at) {
            join(a, b, square, m_regions.tile(guessed, at, guessDoubt));
        });
        for (const PadRef ref : pads)
            join(m_out.nodeOf(ref), sheet.at(m_board.pad(ref).at), Ohms(joint_ohms), exact);
    }

    /// Each pad to its four nearest where a mesh is guessed, and all of them along the shortest tree.
    void joinAsTraces(const std::vector<PadRef>& pads) {
        std::vector<BoardPoint> at;
        for (const PadRef ref : pads)
            at.push_back(m_board.pad(ref).at);
        const auto trace = [&](std::size_t a, std::size_t b) {
            constexpr double width_mm = 3, touching_mm = 0.3;
            const double squares = std::max(touching_mm, distance_mm(at[a], at[b])) / width_mm;
            join(m_out.nodeOf(pads[a]), m_out.nodeOf(pads[b]),
                 sheetResistance(guessedFoil_m, m_settings.temperature) * squares, m_regions.own(guessDoubt));
        };
        if (m_settings.guess == CopperGuess::Mesh)
            for (const auto& [a, b] : nearestNeighbours(at, 4))
                trace(a, b);
        for (const auto& [a, b] : shortestTree(at))
            trace(a, b);
    }

    void joinLinks() {
        for (const PartIndex link : m_stretch.links) {
            int before = -1;
            NetIndex netBefore = -1;
            const auto& pads = m_board.parts[link].pads;
            for (int i = 0; i < static_cast<int>(pads.size()); ++i) {
                const int node = m_out.nodeOf({link, i});
                if (node < 0 || pads[i].net == netBefore) continue;
                if (before >= 0) join(before, node, m_settings.link, m_regions.own(linkDoubt));
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
    Regions m_regions;
    std::vector<GuessedSheet> m_sheets; ///< one for each bare net, where sheets are guessed
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

Result<std::vector<CopperNetwork>> copperNetworks(const Board& board, const Stretch& stretch,
                                                  const CopperNetworkSettings& settings) {
    std::vector<CopperNetwork> networks;
    for (const CopperGuess guess : {CopperGuess::Mesh, CopperGuess::Tree, CopperGuess::Sheet}) {
        CopperNetworkSettings guessing = settings;
        guessing.guess = guess;
        auto made = copperNetwork(board, stretch, guessing);
        if (!made) return made.error();
        networks.push_back(std::move(made.value()));
        if (networks.back().fromCopper) break;
    }
    return networks;
}

} // namespace ustor
