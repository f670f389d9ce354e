#include "board/gerber/copper_nets.h"

#include "board/board_builder.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <tuple>

namespace ustor::gerber {
namespace {

struct Sheet {
    int layer = 0, piece = 0;
    BoardBox box;
};

BoardBox boundsOf(const CopperPiece& piece) {
    BoardBox box{piece.outline.front(), piece.outline.front()};
    for (const BoardPoint p : piece.outline) {
        box.low = {std::min(box.low.x_mm, p.x_mm), std::min(box.low.y_mm, p.y_mm)};
        box.high = {std::max(box.high.x_mm, p.x_mm), std::max(box.high.y_mm, p.y_mm)};
    }
    return box;
}

/// Pieces of copper with a grid over the board, so that the one under a point is found without asking all.
class Sheets {
  public:
    explicit Sheets(const Board& board) : m_board(board) {
        chooseCell();
        for (int layer = 0; layer < static_cast<int>(board.copper.size()); ++layer)
            for (int piece = 0; piece < static_cast<int>(board.copper[layer].pieces.size()); ++piece)
                add({layer, piece, boundsOf(board.copper[layer].pieces[piece])});
        m_parent.resize(m_sheets.size());
        std::iota(m_parent.begin(), m_parent.end(), 0);
    }

    /// Index of the piece of a layer at a point; -1 where there is none.
    int at(int layer, BoardPoint point) const {
        const auto cell = m_grid.find(cellOf(layer, point));
        if (cell == m_grid.end()) return -1;
        for (const int i : cell->second) {
            const Sheet& sheet = m_sheets[i];
            if (point.x_mm >= sheet.box.low.x_mm && point.x_mm <= sheet.box.high.x_mm &&
                point.y_mm >= sheet.box.low.y_mm && point.y_mm <= sheet.box.high.y_mm &&
                contains(m_board.copper[sheet.layer].pieces[sheet.piece], point))
                return i;
        }
        return -1;
    }
    /// The piece that a hole touches: its middle may be cut out of the drawn copper.
    int around(int layer, BoardPoint middle, double diameter_mm) const {
        constexpr double ring_mm = 0.03;
        const double reach = diameter_mm / 2 + ring_mm;
        for (const auto& [dx, dy] : {std::pair{0.0, 0.0}, {1.0, 0.0}, {-1.0, 0.0}, {0.0, 1.0}, {0.0, -1.0}})
            if (const int found = at(layer, {middle.x_mm + dx * reach, middle.y_mm + dy * reach}); found >= 0)
                return found;
        return -1;
    }
    void connect(int a, int b) { m_parent[root(a)] = root(b); }
    int root(int i) {
        while (m_parent[i] != i)
            i = m_parent[i] = m_parent[m_parent[i]];
        return i;
    }
    const std::vector<Sheet>& all() const { return m_sheets; }

  private:
    using Cell = std::tuple<int, long, long>;
    Cell cellOf(int layer, BoardPoint p) const {
        return {layer, std::lround(std::floor(p.x_mm / m_cell_mm)),
                std::lround(std::floor(p.y_mm / m_cell_mm))};
    }
    /// A broken file may place copper kilometres away: no piece covers more than some thousand cells.
    void chooseCell() {
        constexpr double most = 64;
        for (const CopperLayer& layer : m_board.copper)
            for (const CopperPiece& piece : layer.pieces) {
                const BoardBox box = boundsOf(piece);
                m_cell_mm = std::max(m_cell_mm, std::max(box.width_mm(), box.height_mm()) / most);
            }
    }
    void add(const Sheet& sheet) {
        const auto [layer, x0, y0] = cellOf(sheet.layer, sheet.box.low);
        const auto [same, x1, y1] = cellOf(sheet.layer, sheet.box.high);
        for (long x = x0; x <= x1; ++x)
            for (long y = y0; y <= y1; ++y)
                m_grid[{layer, x, y}].push_back(static_cast<int>(m_sheets.size()));
        m_sheets.push_back(sheet);
    }

    const Board& m_board;
    double m_cell_mm = 2;
    std::vector<Sheet> m_sheets;
    std::map<Cell, std::vector<int>> m_grid;
    std::vector<int> m_parent;
};

/// Votes for nets, by connected copper.
using Votes = std::map<int, std::map<NetIndex, int>>;

int layersOf(const Board& board) {
    return static_cast<int>(board.copper.size());
}

template <class F> void forPads(const Board& board, F with) {
    for (const Part& part : board.parts)
        for (const Pad& pad : part.pads)
            for (int layer = 0; layer < layersOf(board); ++layer) {
                const bool outer = pad.side == Side::Top ? layer == 0 : layer == layersOf(board) - 1;
                if (pad.through || outer) with(part, pad, layer);
            }
}

NetIndex most(const std::map<NetIndex, int>& votes) {
    return std::max_element(votes.begin(), votes.end(),
                            [](const auto& a, const auto& b) { return a.second < b.second; })
        ->first;
}

/// Where nobody names a net: each copper with two pads or holes and more becomes one.
void inventNets(BoardBuilder& names, Sheets& sheets, const std::map<int, int>& touches, Votes& votes) {
    int number = 0;
    for (std::size_t i = 0; i < sheets.all().size(); ++i) {
        const int root = sheets.root(static_cast<int>(i));
        const auto found = touches.find(root);
        constexpr int fewest = 2;
        if (found == touches.end() || found->second < fewest || votes.contains(root)) continue;
        votes[root][names.net("copper " + std::to_string(++number))] = 1;
    }
}

} // namespace

void nameNets(Board& board, std::vector<PlatedHole>& holes, const std::vector<NetMark>& marks) {
    Sheets sheets(board);
    BoardBuilder names(board);
    std::vector<int> held; // one piece that each hole touches
    for (const PlatedHole& hole : holes) {
        int before = -1;
        for (int layer = hole.first; layer <= std::min(hole.last, layersOf(board) - 1); ++layer) {
            const int here = sheets.around(layer, hole.at, hole.diameter_mm);
            if (here < 0) continue;
            if (before >= 0) sheets.connect(before, here);
            before = here;
        }
        held.push_back(before);
    }
    // Through pads of a netlist join layers even where no drill file came along.
    for (const Part& part : board.parts)
        for (const Pad& pad : part.pads) {
            int before = -1;
            for (int layer = 0; pad.through && layer < layersOf(board); ++layer) {
                const int here = sheets.around(layer, pad.at, pad.hole_mm);
                if (here >= 0 && before >= 0) sheets.connect(before, here);
                if (here >= 0) before = here;
            }
        }

    Votes byMarks, byPads;
    std::map<int, int> touches;
    for (const NetMark& mark : marks)
        if (const int piece = sheets.at(mark.layer, mark.at); piece >= 0)
            if (const NetIndex net = names.net(mark.net); net >= 0) ++byMarks[sheets.root(piece)][net];
    forPads(board, [&](const Part&, const Pad& pad, int layer) {
        const int piece = sheets.around(layer, pad.at, pad.hole_mm);
        if (piece < 0) return;
        ++touches[sheets.root(piece)];
        if (pad.net >= 0) ++byPads[sheets.root(piece)][pad.net];
    });
    for (const int piece : held)
        if (piece >= 0) ++touches[sheets.root(piece)];
    Votes votes = byPads;
    for (const auto& [root, counted] : byMarks)
        votes[root] = counted;
    if (board.nets.empty()) inventNets(names, sheets, touches, votes);

    for (const auto& [root, counted] : votes)
        if (counted.size() > 1) {
            const Sheet& sheet = sheets.all()[root];
            std::string joined;
            for (const auto& [net, count] : counted)
                joined += (joined.empty() ? "" : ", ") + board.nets[net].name;
            board.warnings.push_back({board.copper[sheet.layer].name,
                                      say("one piece of copper joins the nets {joined}: taken as {net}",
                                          {{"joined", joined}, {"net", board.nets[most(counted)].name}})});
        }
    for (std::size_t i = 0; i < sheets.all().size(); ++i) {
        const Sheet& sheet = sheets.all()[i];
        const auto found = votes.find(sheets.root(static_cast<int>(i)));
        if (found != votes.end()) board.copper[sheet.layer].pieces[sheet.piece].net = most(found->second);
    }
    for (std::size_t i = 0; i < holes.size(); ++i)
        if (held[i] >= 0)
            holes[i].net = board.copper[sheets.all()[held[i]].layer].pieces[sheets.all()[held[i]].piece].net;
    // Pads and vias that no file gave a net take that of their copper.
    for (Part& part : board.parts)
        for (Pad& pad : part.pads) {
            if (pad.net >= 0) continue;
            const int layer = pad.side == Side::Top || pad.through ? 0 : layersOf(board) - 1;
            if (const int piece = layer >= 0 ? sheets.around(layer, pad.at, pad.hole_mm) : -1; piece >= 0)
                pad.net = board.copper[sheets.all()[piece].layer].pieces[sheets.all()[piece].piece].net;
        }
}

} // namespace ustor::gerber
