#include "board/gerber/fabrication.h"

#include "board/board_builder.h"
#include "board/gerber/copper_nets.h"
#include "board/gerber/shift_match.h"
#include "board/plane/copper_pieces.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <utility>

namespace ustor::gerber {
namespace {

Paths moved(const Paths& shapes, BoardPoint by) {
    Placing placing;
    placing.shift = by;
    return placing.apply(shapes);
}

std::vector<BoardPoint> flashesOf(const GerberFile& file) {
    std::vector<BoardPoint> points;
    for (const GraphicObject& object : file.objects)
        if (object.flash && object.dark) points.push_back(object.at);
    return points;
}

/// Flashes; and the middles of small regions, as which some programs write their pads.
std::vector<BoardPoint> padLike(const GerberFile& file) {
    std::vector<BoardPoint> points = flashesOf(file);
    for (const GraphicObject& object : file.objects) {
        if (object.flash || !object.dark || object.pen_mm > 0 || object.shape.size() != 1) continue;
        const Path& path = object.shape.front();
        constexpr std::size_t corners = 16;
        if (path.empty() || path.size() > corners) continue;
        IntPoint low = path.front(), high = low;
        for (const IntPoint p : path) {
            low = {std::min(low.X, p.X), std::min(low.Y, p.Y)};
            high = {std::max(high.X, p.X), std::max(high.Y, p.Y)};
        }
        points.push_back(millimetres({(low.X + high.X) / 2, (low.Y + high.Y) / 2}));
    }
    return points;
}

std::vector<BoardPoint> placesOf(const DrillFile& file) {
    std::vector<BoardPoint> points;
    for (const DrilledHole& hole : file.holes)
        points.push_back({(hole.from.x_mm + hole.to.x_mm) / 2, (hole.from.y_mm + hole.to.y_mm) / 2});
    return points;
}

class Joiner {
  public:
    Joiner(Board& board, const Fabrication& fabrication) : m_board(board), m_fabrication(fabrication) {}

    void join() {
        for (const auto& layer : m_fabrication.layers)
            note(layer.file.warnings);
        for (const auto& drills : m_fabrication.drills)
            note(drills.file.warnings);
        orderCopper();
        findReference();
        for (const auto* layer : m_copper)
            addCopper(*layer);
        for (const auto& layer : m_fabrication.layers)
            if (layer.role.kind == LayerKind::Profile) addOutline(layer);
        for (const auto& layer : m_fabrication.layers)
            if (layer.role.kind == LayerKind::Drill) addDrillPicture(layer);
        for (const auto& drills : m_fabrication.drills)
            addDrills(drills.name, drills.file);
        addPadsFromAttributes();
        nameNets(m_board, m_holes, m_netMarks);
        addVias();
    }

  private:
    void note(const std::vector<BoardWarning>& warnings) {
        m_board.warnings.insert(m_board.warnings.end(), warnings.begin(), warnings.end());
    }
    void warn(const std::string& where, std::string what) {
        m_board.warnings.push_back({where, std::move(what)});
    }

    /// Top to bottom: by number, the unnumbered between, the bottom last.
    void orderCopper() {
        for (const auto& layer : m_fabrication.layers)
            if (layer.role.kind == LayerKind::Copper) m_copper.push_back(&layer);
        const auto rank = [](const Fabrication::Layer* layer) {
            constexpr int between = 1000, last = 2000;
            if (layer->role.bottom) return last;
            return layer->role.number > 0 ? layer->role.number : between;
        };
        std::stable_sort(m_copper.begin(), m_copper.end(), [&](const auto* a, const auto* b) {
            return rank(a) != rank(b) ? rank(a) < rank(b) : a->name < b->name;
        });
        if (!m_copper.empty()) m_board.copperLayers = static_cast<int>(m_copper.size());
    }

    /// Places that all files are brought to: the board's pads and vias, else what the first copper layer
    /// flashes.
    void findReference() {
        for (const Part& part : m_board.parts)
            for (const Pad& pad : part.pads)
                m_reference.push_back(pad.at);
        for (const Via& via : m_board.vias)
            m_reference.push_back(via.at);
        m_padsKnown = !m_reference.empty();
        if (m_reference.empty() && !m_copper.empty()) m_reference = padLike(m_copper.front()->file);
    }

    BoardPoint shiftOf(const std::string& name, const std::vector<BoardPoint>& points) {
        constexpr std::size_t fewest = 3;
        if (points.size() < fewest || m_reference.size() < fewest) return m_shift.value_or(BoardPoint{});
        const auto shift = shiftBetween(points, m_reference);
        if (!shift) {
            if (m_padsKnown && !m_shift) warn(name, "no shift brings it to the board's pads: taken as it is");
            return m_shift.value_or(BoardPoint{});
        }
        constexpr double small_mm = 0.02;
        if (std::hypot(shift->x_mm, shift->y_mm) > small_mm) {
            warn(name, "had another origin: brought to the board's pads");
            m_shift = shift;
            return *shift;
        }
        if (!m_shift) m_shift = BoardPoint{};
        return {};
    }

    void addCopper(const Fabrication::Layer& layer) {
        const BoardPoint shift = shiftOf(layer.name, padLike(layer.file));
        CopperLayer copper;
        copper.name = layer.name;
        if (layer.file.negative)
            warn(layer.name,
                 "a negative picture: its copper cannot be told without the board's edge and is left out");
        else
            copper.pieces = unitedPieces(moved(layer.file.picture(), shift));
        const int index = static_cast<int>(m_board.copper.size());
        for (const GraphicObject& object : layer.file.objects) {
            if (!object.dark || object.net.empty() || object.shape.empty() || object.shape.front().empty())
                continue;
            const BoardPoint at = object.flash ? object.at : insideOf(object.shape.front());
            m_netMarks.push_back({index, {at.x_mm + shift.x_mm, at.y_mm + shift.y_mm}, object.net});
            if (object.flash && !object.part.empty()) {
                MarkedPad marked{
                    object.part, object.pin, object.net, {at.x_mm + shift.x_mm, at.y_mm + shift.y_mm}, {}};
                marked.pad.side = index == 0 ? Side::Top : Side::Bottom;
                const auto box = boundsOf(object.shape.front());
                marked.pad.width_mm = box.width_mm();
                marked.pad.height_mm = box.height_mm();
                m_markedPads.push_back(marked);
            }
        }
        m_board.copper.push_back(std::move(copper));
    }

    /// A point on a drawn shape: the middle of a short chord at its first corner, nudged inwards.
    static BoardPoint insideOf(const Path& path) {
        const BoardPoint a = millimetres(path[0]), b = millimetres(path[1 % path.size()]),
                         c = millimetres(path.back());
        return {(a.x_mm * 0.98 + b.x_mm * 0.01 + c.x_mm * 0.01),
                (a.y_mm * 0.98 + b.y_mm * 0.01 + c.y_mm * 0.01)};
    }

    static BoardBox boundsOf(const Path& path) {
        BoardBox box{millimetres(path.front()), millimetres(path.front())};
        for (const IntPoint p : path) {
            const BoardPoint at = millimetres(p);
            box.low = {std::min(box.low.x_mm, at.x_mm), std::min(box.low.y_mm, at.y_mm)};
            box.high = {std::max(box.high.x_mm, at.x_mm), std::max(box.high.y_mm, at.y_mm)};
        }
        return box;
    }

    void addOutline(const Fabrication::Layer& layer) {
        if (!m_board.outline.empty()) return;
        // The edge is the middle of the drawn line: half a pen inside of what it covers.
        double pen_mm = 0;
        for (const GraphicObject& object : layer.file.objects)
            pen_mm = std::max(pen_mm, object.pen_mm);
        Path largest;
        for (const Path& path : layer.file.picture())
            if (ClipperLib::Area(path) > ClipperLib::Area(largest)) largest = path;
        if (largest.empty()) return warn(layer.name, "draws no closed edge");
        ClipperLib::ClipperOffset offset;
        offset.AddPath(largest, ClipperLib::jtMiter, ClipperLib::etClosedPolygon);
        Paths edge;
        offset.Execute(edge, -pen_mm / 2 * perMillimetre);
        // The round pen's corners shrink to points that lie on each other.
        constexpr double together_mm = 0.01;
        ClipperLib::CleanPolygons(edge, together_mm * perMillimetre);
        if (edge.empty() || edge.front().empty()) return warn(layer.name, "draws no closed edge");
        const BoardPoint shift = m_shift.value_or(BoardPoint{});
        for (const IntPoint p : edge.front())
            m_board.outline.push_back({millimetres(p).x_mm + shift.x_mm, millimetres(p).y_mm + shift.y_mm});
    }

    /// Drills that come as a Gerber layer: each flash is a hole as wide as it is.
    void addDrillPicture(const Fabrication::Layer& layer) {
        DrillFile file;
        const auto function = layer.file.attributes.find("FileFunction");
        if (function != layer.file.attributes.end())
            file.plating = function->second.starts_with("Plated") ? Plating::Plated : Plating::NonPlated;
        for (const GraphicObject& object : layer.file.objects)
            if (object.flash)
                file.holes.push_back({object.at, object.at, boundsOf(object.shape.front()).width_mm()});
        addDrills(layer.name, file);
    }

    void addDrills(const std::string& name, const DrillFile& file) {
        if (file.plating == Plating::NonPlated || file.holes.empty()) return;
        const BoardPoint shift = shiftOf(name, placesOf(file));
        for (const DrilledHole& hole : file.holes) {
            PlatedHole plated;
            plated.at = {(hole.from.x_mm + hole.to.x_mm) / 2 + shift.x_mm,
                         (hole.from.y_mm + hole.to.y_mm) / 2 + shift.y_mm};
            plated.diameter_mm = hole.diameter_mm;
            plated.first = std::max(0, file.firstLayer - 1);
            plated.last = file.lastLayer > 0 ? file.lastLayer - 1 : static_cast<int>(m_copper.size()) - 1;
            m_holes.push_back(plated);
        }
    }

    void addPadsFromAttributes() {
        if (m_padsKnown || m_markedPads.empty()) return;
        BoardBuilder names(m_board);
        for (const MarkedPad& marked : m_markedPads) {
            auto& pads = names.partNamed(marked.part).pads;
            // A through pad is flashed on every layer.
            const auto same = std::find_if(pads.begin(), pads.end(), [&](const Pad& pad) {
                constexpr double near_mm = 0.01;
                return pad.pin == marked.pin && distance_mm(pad.at, marked.at) < near_mm;
            });
            if (same != pads.end()) {
                same->through = same->through || same->side != marked.pad.side;
                continue;
            }
            Pad pad = marked.pad;
            pad.pin = marked.pin;
            pad.at = marked.at;
            pad.net = names.net(marked.net);
            pads.push_back(pad);
        }
        for (Part& part : m_board.parts)
            for (Pad& pad : part.pads)
                for (const PlatedHole& hole : m_holes)
                    if (distance_mm(hole.at, pad.at) < std::min(pad.width_mm, pad.height_mm) / 4) {
                        pad.through = true;
                        pad.hole_mm = hole.diameter_mm;
                    }
    }

    /// Places within a tenth of a millimetre are one; in cells of that size, for files with many thousands.
    class Places {
      public:
        bool near(BoardPoint p) const {
            const auto [x, y] = cellOf(p);
            for (long i = x - 1; i <= x + 1; ++i)
                for (long j = y - 1; j <= y + 1; ++j)
                    if (const auto cell = m_cells.find({i, j}); cell != m_cells.end())
                        for (const BoardPoint other : cell->second)
                            if (distance_mm(other, p) < near_mm) return true;
            return false;
        }
        void add(BoardPoint p) { m_cells[cellOf(p)].push_back(p); }

      private:
        static constexpr double near_mm = 0.1;
        static std::pair<long, long> cellOf(BoardPoint p) {
            return {std::lround(std::floor(p.x_mm / near_mm)), std::lround(std::floor(p.y_mm / near_mm))};
        }
        std::map<std::pair<long, long>, std::vector<BoardPoint>> m_cells;
    };

    void addVias() {
        Places pads; // a pad's hole is no via
        for (const Part& part : m_board.parts)
            for (const Pad& pad : part.pads)
                if (pad.through) pads.add(pad.at);
        for (const Via& via : m_board.vias)
            pads.add(via.at);
        for (const PlatedHole& hole : m_holes)
            if (!pads.near(hole.at)) {
                m_board.vias.push_back({hole.at, hole.net, hole.diameter_mm});
                pads.add(hole.at); // drilled twice is drilled once
            }
    }

    struct MarkedPad {
        std::string part, pin, net;
        BoardPoint at;
        Pad pad;
    };

    Board& m_board;
    const Fabrication& m_fabrication;
    std::vector<const Fabrication::Layer*> m_copper;
    std::vector<BoardPoint> m_reference;
    std::optional<BoardPoint> m_shift; ///< that of the files so far
    bool m_padsKnown = false;
    std::vector<PlatedHole> m_holes;
    std::vector<NetMark> m_netMarks;
    std::vector<MarkedPad> m_markedPads;
};

} // namespace

void joinFabrication(Board& board, const Fabrication& fabrication) {
    Joiner(board, fabrication).join();
}

} // namespace ustor::gerber
