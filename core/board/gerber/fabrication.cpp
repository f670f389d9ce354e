#include "board/gerber/fabrication.h"

#include "base/number_text.h"
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
    Joiner(Board& board, const Fabrication& fabrication, const FileShifts& given)
        : m_board(board), m_fabrication(fabrication), m_given(given) {}

    std::vector<UnplacedFile> join() {
        for (const auto& layer : m_fabrication.layers)
            note(layer.file.warnings);
        for (const auto& drills : m_fabrication.drills)
            note(drills.file.warnings);
        orderCopper();
        findReference();
        placeFiles();
        for (const auto* layer : m_copper)
            addCopper(*layer);
        for (const auto& layer : m_fabrication.layers)
            if (layer.role.kind == LayerKind::Profile) addOutline(layer);
        for (const auto& layer : m_fabrication.layers)
            if (layer.role.kind == LayerKind::Drill) addDrills(layer.name, drilledBy(layer));
        for (const auto& drills : m_fabrication.drills)
            addDrills(drills.name, drills.file);
        addPadsFromAttributes();
        nameNets(m_board, m_holes, m_netMarks);
        addVias();
        return std::move(m_unplaced);
    }

  private:
    void note(const std::vector<BoardWarning>& warnings) {
        m_board.warnings.insert(m_board.warnings.end(), warnings.begin(), warnings.end());
    }
    void warn(const std::string& where, Message what) {
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

    /// A file with the places in it that can be recognised on the board.
    struct Placeable {
        std::string name;
        std::vector<BoardPoint> places;
        const Fabrication::Layer* layer = nullptr; ///< of copper; nullptr for drills
    };

    std::vector<Placeable> placeable() const {
        std::vector<Placeable> files;
        for (const auto* layer : m_copper)
            files.push_back({layer->name, padLike(layer->file), layer});
        for (const auto& layer : m_fabrication.layers)
            if (const DrillFile file = drilledBy(layer); layer.role.kind == LayerKind::Drill && plates(file))
                files.push_back({layer.name, placesOf(file), nullptr});
        for (const auto& drills : m_fabrication.drills)
            if (plates(drills.file)) files.push_back({drills.name, placesOf(drills.file), nullptr});
        return files;
    }

    /// By hand, else by the pads; what tells nothing goes with the others.
    void placeFiles() {
        const auto files = placeable();
        m_shifts = m_given;
        for (const auto& [name, shift] : m_given)
            warn(name, shift == BoardPoint{}
                           ? say("left where it lies, by hand")
                           : say("placed by hand: moved by {x}, {y} mm",
                                 {{"x", textOfNumber(shift.x_mm)}, {"y", textOfNumber(shift.y_mm)}}));
        constexpr std::size_t fewest = 3;
        if (m_reference.size() < fewest) return; // nothing to place them by, and nothing to click on
        for (const Placeable& file : files) {
            if (m_shifts.count(file.name) || file.places.size() < fewest) continue;
            auto shift = shiftBetween(file.places, file.layer ? m_reference : drillable(files));
            if (!shift) continue;
            constexpr double small_mm = 0.02;
            if (std::hypot(shift->x_mm, shift->y_mm) > small_mm)
                warn(file.name, say("had another origin: brought to the board's pads"));
            else
                shift = BoardPoint{};
            m_shifts[file.name] = *shift;
            if (!m_common) m_common = shift;
        }
        for (const Placeable& file : files) {
            if (m_shifts.count(file.name)) continue;
            if (const auto shift = shiftOfOthers(file))
                m_shifts[file.name] = *shift;
            else
                leaveUnplaced(file);
        }
    }

    /// Where holes can be: through pads, vias, and what the layers placed so far flash. Vias stand beside
    /// pads in the same way again and again, so holes must not be laid on pads that have none.
    std::vector<BoardPoint> drillable(const std::vector<Placeable>& files) const {
        std::vector<BoardPoint> places;
        for (const Part& part : m_board.parts)
            for (const Pad& pad : part.pads)
                if (pad.through) places.push_back(pad.at);
        for (const Via& via : m_board.vias)
            places.push_back(via.at);
        for (const Placeable& file : files)
            if (const auto placed = m_shifts.find(file.name); file.layer && placed != m_shifts.end())
                for (const BoardPoint p : flashesOf(file.layer->file))
                    places.push_back({p.x_mm + placed->second.x_mm, p.y_mm + placed->second.y_mm});
        return places;
    }

    /// That of files the pads placed, else of one placed by hand, which brings most of a file to where the
    /// board is.
    std::optional<BoardPoint> shiftOfOthers(const Placeable& file) const {
        if (m_common && liesOnBoard(file, *m_common)) return m_common;
        for (const auto& [name, shift] : m_given)
            if (liesOnBoard(file, shift)) return shift;
        return std::nullopt;
    }

    bool liesOnBoard(const Placeable& file, BoardPoint shift) const {
        BoardPoint low = m_reference.front(), high = low;
        for (const BoardPoint p : m_reference) {
            low = {std::min(low.x_mm, p.x_mm), std::min(low.y_mm, p.y_mm)};
            high = {std::max(high.x_mm, p.x_mm), std::max(high.y_mm, p.y_mm)};
        }
        constexpr double margin_mm = 10;
        const auto inside = std::count_if(file.places.begin(), file.places.end(), [&](BoardPoint p) {
            const double x_mm = p.x_mm + shift.x_mm, y_mm = p.y_mm + shift.y_mm;
            return x_mm > low.x_mm - margin_mm && x_mm < high.x_mm + margin_mm &&
                   y_mm > low.y_mm - margin_mm && y_mm < high.y_mm + margin_mm;
        });
        return 2 * static_cast<std::size_t>(inside) >= file.places.size();
    }

    void leaveUnplaced(const Placeable& file) {
        warn(file.name,
             say("nothing tells where it lies on the board: taken as it is until it is placed by hand"));
        UnplacedFile unplaced{file.name, file.places, {}};
        if (file.layer) {
            unplaced.copper = unitedPieces(file.layer->file.picture());
            for (const GraphicObject& object : file.layer->file.objects)
                if (unplaced.places.empty() && !object.shape.empty() && !object.shape.front().empty())
                    unplaced.places.push_back(millimetres(object.shape.front().front()));
        }
        m_shifts[file.name] = {};
        m_unplaced.push_back(std::move(unplaced));
    }

    BoardPoint shiftOf(const std::string& name) const {
        const auto own = m_shifts.find(name);
        return own != m_shifts.end() ? own->second : m_common.value_or(BoardPoint{});
    }

    void addCopper(const Fabrication::Layer& layer) {
        const BoardPoint shift = shiftOf(layer.name);
        CopperLayer copper;
        copper.name = layer.name;
        if (layer.file.negative)
            warn(layer.name, say("a negative picture: its copper cannot be told without the board's edge and "
                                 "is left out"));
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
        if (largest.empty()) return warn(layer.name, say("draws no closed edge"));
        ClipperLib::ClipperOffset offset;
        offset.AddPath(largest, ClipperLib::jtMiter, ClipperLib::etClosedPolygon);
        Paths edge;
        offset.Execute(edge, -pen_mm / 2 * perMillimetre);
        // The round pen's corners shrink to points that lie on each other.
        constexpr double together_mm = 0.01;
        ClipperLib::CleanPolygons(edge, together_mm * perMillimetre);
        if (edge.empty() || edge.front().empty()) return warn(layer.name, say("draws no closed edge"));
        const BoardPoint shift = shiftOf(layer.name);
        for (const IntPoint p : edge.front())
            m_board.outline.push_back({millimetres(p).x_mm + shift.x_mm, millimetres(p).y_mm + shift.y_mm});
    }

    /// Drills that come as a Gerber layer: each flash is a hole as wide as it is.
    static DrillFile drilledBy(const Fabrication::Layer& layer) {
        DrillFile file;
        const auto function = layer.file.attributes.find("FileFunction");
        if (function != layer.file.attributes.end())
            file.plating = function->second.starts_with("Plated") ? Plating::Plated : Plating::NonPlated;
        for (const GraphicObject& object : layer.file.objects)
            if (object.flash)
                file.holes.push_back({object.at, object.at, boundsOf(object.shape.front()).width_mm()});
        return file;
    }

    static bool plates(const DrillFile& file) {
        return file.plating != Plating::NonPlated && !file.holes.empty();
    }

    void addDrills(const std::string& name, const DrillFile& file) {
        if (!plates(file)) return;
        const BoardPoint shift = shiftOf(name);
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
    const FileShifts& m_given;
    std::vector<const Fabrication::Layer*> m_copper;
    std::vector<BoardPoint> m_reference;
    FileShifts m_shifts;                ///< by hand or found
    std::optional<BoardPoint> m_common; ///< of the first file that the pads placed
    std::vector<UnplacedFile> m_unplaced;
    bool m_padsKnown = false;
    std::vector<PlatedHole> m_holes;
    std::vector<NetMark> m_netMarks;
    std::vector<MarkedPad> m_markedPads;
};

} // namespace

bool Fabrication::holds(std::string_view name) const {
    const auto called = [&](const auto& file) { return file.name == name; };
    return std::any_of(layers.begin(), layers.end(), called) ||
           std::any_of(drills.begin(), drills.end(), called);
}

std::vector<UnplacedFile> joinFabrication(Board& board, const Fabrication& fabrication,
                                          const FileShifts& shifts) {
    return Joiner(board, fabrication, shifts).join();
}

} // namespace ustor::gerber
