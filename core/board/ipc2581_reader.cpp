#include "board/ipc2581_reader.h"

#include "base/number_text.h"
#include "board/board_builder.h"
#include "board/ipc2581/layers.h"
#include "board/ipc2581/packages.h"
#include "board/ipc2581/primitives.h"
#include "board/plane/copper_pieces.h"

#include <algorithm>
#include <cmath>
#include <unordered_map>

namespace ustor {
namespace {

using namespace ipc2581;

/// Places on a board in cells of a tenth of a millimetre, so that what lies at a point is found at once.
template <class T> class Spots {
  public:
    void add(BoardPoint at, const T& what) {
        m_cells[key(cellOf(at.x_mm), cellOf(at.y_mm))].push_back({at, what});
    }
    /// Calls with all within a reach of up to half a cell: of the neighbours only the nearer ones count.
    template <class F> void near(BoardPoint at, double reach_mm, F with) const {
        const long x = cellOf(at.x_mm), y = cellOf(at.y_mm);
        const long besideX = at.x_mm / cell_mm - static_cast<double>(x) < 0.5 ? x - 1 : x + 1,
                   besideY = at.y_mm / cell_mm - static_cast<double>(y) < 0.5 ? y - 1 : y + 1;
        for (const long cx : {x, besideX})
            for (const long cy : {y, besideY})
                if (const auto cell = m_cells.find(key(cx, cy)); cell != m_cells.end())
                    for (const auto& [where, what] : cell->second)
                        if (distance_mm(where, at) <= reach_mm) with(where, what);
    }

  private:
    static constexpr double cell_mm = 0.1;
    static long cellOf(double mm) { return std::lround(std::floor(mm / cell_mm)); }
    static long key(long x, long y) { return x * (1L << 24) + y; }
    std::unordered_map<long, std::vector<std::pair<BoardPoint, T>>> m_cells;
};

constexpr double samePlace_mm = 0.05;

struct Hole {
    double diameter_mm = 0;
    NetIndex net = -1;
    bool taken = false; ///< belongs to a part's pad
};

class Reader {
  public:
    explicit Reader(XmlSource& source) : m_source(source), m_shapes(source) {}

    Result<Board> read() {
        const auto root = m_source.root();
        const auto content = root.child("Content");
        const auto ecad = root.child("Ecad");
        const auto header = ecad.child("CadHeader");
        const auto unit = unitFromWord(header.attribute("units").value());
        if (!unit) m_source.warn(header, "CadHeader names no unit that is known: read as millimetres");
        m_unit_mm = unit.value_or(1.0);
        const auto data = ecad.child("CadData");
        const auto step = boardStep(data);
        if (!step) return Error{"no Step: the file describes no board", "", "nothing was read"};
        m_board.name = ecad.attribute("name").value();
        if (m_board.name.empty()) m_board.name = step.attribute("name").value();
        m_shapes.readDictionaries(content);
        const Layers layers(data, m_source, m_unit_mm);
        m_layers = &layers;
        for (const auto& copper : layers.copper()) {
            CopperLayer layer;
            layer.name = copper.name;
            if (copper.thickness_mm > 0) layer.thickness_mm = copper.thickness_mm;
            m_board.copper.push_back(std::move(layer));
        }
        m_board.copperLayers = static_cast<int>(m_board.copper.size());
        if (layers.thickness_mm() > 0) m_board.thickness_mm = layers.thickness_mm();
        m_board.outline = m_shapes.corners(step.child("Profile").child("Polygon"), m_unit_mm);
        if (m_board.outline.size() < 3) m_board.outline.clear();
        readNets(step);
        m_stacks.read(step, m_shapes, m_source, m_unit_mm);
        forChildren(step, "LayerFeature", [&](pugi::xml_node feature) { readFeatures(feature); });
        m_packages.read(step, m_shapes, m_source, m_unit_mm);
        readComponents(step);
        readValues(root);
        addVias();
        // A file that gives no copper at all says nothing about it.
        if (std::all_of(m_board.copper.begin(), m_board.copper.end(),
                        [](const CopperLayer& layer) { return layer.pieces.empty(); }))
            m_board.copper.clear();
        auto warnings = m_source.takeWarnings();
        m_board.warnings.insert(m_board.warnings.end(), warnings.begin(), warnings.end());
        return std::move(m_board);
    }

  private:
    static pugi::xml_node boardStep(pugi::xml_node data) {
        pugi::xml_node best;
        long most = -1;
        forChildren(data, "Step", [&](pugi::xml_node step) {
            long count = 0;
            forChildren(step, "Component", [&](pugi::xml_node) { ++count; });
            if (count > most) {
                most = count;
                best = step;
            }
        });
        return best;
    }

    static std::string pinKey(std::string_view part, std::string_view pin) {
        return std::string(part) + '\n' + std::string(pin);
    }

    void readNets(pugi::xml_node step) {
        forChildren(step, "LogicalNet", [&](pugi::xml_node logical) {
            const NetIndex net = m_names.net(logical.attribute("name").value());
            forChildren(logical, "PinRef", [&](pugi::xml_node pin) {
                m_netOfPin[pinKey(pin.attribute("componentRef").value(), pin.attribute("pin").value())] = net;
            });
        });
    }

    // ---- copper, pads and holes of one layer ----

    void readFeatures(pugi::xml_node feature) {
        const int copper = m_layers->copperIndex(feature.attribute("layerRef").value());
        forChildren(feature, "Set", [&](pugi::xml_node set) {
            const NetIndex net = m_names.net(set.attribute("net").value());
            const bool dark = std::string_view(set.attribute("polarity").value()) != "NEGATIVE";
            forChildren(set, "Hole", [&](pugi::xml_node hole) {
                addHole(hole, m_source.point(hole, "x", "y", m_unit_mm), net);
            });
            forChildren(set, "SlotCavity", [&](pugi::xml_node slot) { addSlot(slot, net); });
            if (copper < 0) return;
            forChildren(set, "Pad", [&](pugi::xml_node pad) { addPad(pad, copper, net, dark); });
            forChildren(set, "", [&](pugi::xml_node child) {
                if (Primitives::draws(child.name()))
                    draw(m_shapes.shapeOf(child, m_unit_mm), copper, net, dark);
            });
        });
    }

    void draw(const plane::Paths& shape, int copper, NetIndex net, bool dark) {
        auto& pieces = m_board.copper[copper].pieces;
        if (dark) return plane::addDrawnPieces(pieces, shape, net);
        std::vector<CopperPiece> holes;
        plane::addDrawnPieces(holes, shape, net);
        for (const CopperPiece& hole : holes)
            m_board.copper[copper] = without(m_board.copper[copper], hole);
    }

    void addHole(pugi::xml_node hole, BoardPoint at, NetIndex net) {
        const std::string_view plating = hole.attribute("platingStatus").value();
        if (plating == "NONPLATED") return;
        keepHole(at, std::max(0.0, m_source.number(hole, "diameter") * m_unit_mm), net);
    }

    /// Files give one hole twice: by its stack of pads, and among the drills.
    void keepHole(BoardPoint at, double diameter_mm, NetIndex net) {
        int known = -1;
        m_holeAt.near(at, samePlace_mm, [&](BoardPoint, int i) { known = i; });
        if (known < 0) {
            known = static_cast<int>(m_holes.size());
            m_holes.push_back({at, {}});
            m_holeAt.add(at, known);
        }
        Hole& hole = m_holes[known].second;
        if (diameter_mm > 0) hole.diameter_mm = diameter_mm;
        if (net >= 0) hole.net = net;
    }

    /// A plated slot holds as a hole as wide as its narrow side.
    void addSlot(pugi::xml_node slot, NetIndex net) {
        if (std::string_view(slot.attribute("platingStatus").value()) == "NONPLATED") return;
        plane::Paths shape;
        forChildren(slot, "", [&](pugi::xml_node child) {
            if (Primitives::draws(child.name())) shape = m_shapes.shapeOf(child, m_unit_mm);
        });
        shape = m_shapes.placingOf(slot, m_unit_mm).apply(shape);
        if (shape.empty() || shape.front().empty()) return;
        const BoardBox box = boundsOf(shape);
        const BoardPoint middle{(box.low.x_mm + box.high.x_mm) / 2, (box.low.y_mm + box.high.y_mm) / 2};
        keepHole(middle, std::min(box.width_mm(), box.height_mm()), net);
    }

    void addPad(pugi::xml_node pad, int copper, NetIndex net, bool dark) {
        const auto placing = m_shapes.placingOf(pad, m_unit_mm);
        plane::Paths shape;
        forChildren(pad, "", [&](pugi::xml_node child) {
            if (Primitives::draws(child.name())) shape = m_shapes.shapeOf(child, m_unit_mm);
        });
        const char* stack = pad.attribute("padstackDefRef").value();
        if (shape.empty()) shape = m_stacks.pad(stack, m_board.copper[copper].name);
        shape = placing.apply(shape);
        draw(shape, copper, net, dark);
        if (!dark) return;
        if (const double hole_mm = m_stacks.hole_mm(stack); hole_mm > 0)
            keepHole(placing.shift, hole_mm, net);
        Drawn drawn;
        drawn.layer = copper;
        drawn.net = net;
        if (!shape.empty() && !shape.front().empty()) {
            const BoardBox box = boundsOf(shape);
            drawn.width_mm = box.width_mm();
            drawn.height_mm = box.height_mm();
        }
        m_padAt.add(placing.shift, drawn);
        const auto pin = pad.child("PinRef");
        if (!pin || !outer(copper)) return;
        m_padsOfPin[pinKey(pin.attribute("componentRef").value(), pin.attribute("pin").value())].push_back(
            {placing.shift, drawn});
    }

    bool outer(int copper) const {
        return copper == 0 || copper == static_cast<int>(m_board.copper.size()) - 1;
    }

    static BoardBox boundsOf(const plane::Paths& shape) {
        auto low = shape.front().front(), high = low;
        for (const auto& path : shape)
            for (const auto& p : path) {
                low = {std::min(low.X, p.X), std::min(low.Y, p.Y)};
                high = {std::max(high.X, p.X), std::max(high.Y, p.Y)};
            }
        return {plane::millimetres(low), plane::millimetres(high)};
    }

    // ---- components ----

    struct Placed {
        pugi::xml_node node;
        const Package* package = nullptr;
        plane::Placing placing;
        Side side = Side::Top;
    };

    void readComponents(pugi::xml_node step) {
        std::vector<Placed> all;
        forChildren(step, "Component", [&](pugi::xml_node node) {
            Placed placed;
            placed.node = node;
            placed.package = m_packages.find(node.attribute("packageRef").value());
            placed.placing = m_shapes.placingOf(node, m_unit_mm);
            placed.side = m_layers->sideOf(node.attribute("layerRef").value());
            all.push_back(placed);
        });
        const Way way = wayOfTurning(all);
        for (const Placed& placed : all)
            addComponent(placed, way);
    }

    /// How a writer means rotation and mirror of a part.
    enum class Way { AsWritten, BottomMirrored, TurnFirst, BottomTurnFirst };

    static plane::Placing turned(const Placed& placed, Way way) {
        plane::Placing placing = placed.placing;
        const bool byBottom = way == Way::BottomMirrored || way == Way::BottomTurnFirst;
        if (byBottom) placing.mirrorX = placed.side == Side::Bottom;
        // Turning before the mirror is the same as mirroring and then turning the other way.
        const bool turnFirst = way == Way::TurnFirst || way == Way::BottomTurnFirst;
        if (turnFirst && placing.mirrorX) placing.turn_deg = -placing.turn_deg;
        return placing;
    }

    Way wayOfTurning(const std::vector<Placed>& all) {
        Way best = Way::AsWritten;
        int most = -1, asked = 0;
        for (const Way way : {Way::AsWritten, Way::BottomMirrored, Way::TurnFirst, Way::BottomTurnFirst}) {
            int fit = 0;
            asked = 0;
            // Some hundred parts, evenly from the file, tell it as well as all of them.
            constexpr std::size_t enough = 400;
            const std::size_t step = std::max<std::size_t>(1, all.size() / enough);
            for (std::size_t i = 0; i < all.size(); i += step) {
                const Placed& placed = all[i];
                if (!placed.package) continue;
                const auto placing = turned(placed, way);
                const char* name = placed.node.attribute("refDes").value();
                for (const Pin& pin : placed.package->pins) {
                    const NetIndex net = netOf(name, pin.name);
                    if (net < 0) continue;
                    ++asked;
                    bool hit = false;
                    m_padAt.near(placing.apply(pin.at), samePlace_mm,
                                 [&](BoardPoint, const Drawn& drawn) { hit = hit || drawn.net == net; });
                    fit += hit;
                }
            }
            if (fit > most) {
                most = fit;
                best = way;
            }
        }
        if (asked > 0 && most * 2 < asked && most > 0)
            m_source.warn(all.front().node, "most pins of the packages do not lie on pads of their nets");
        return best;
    }

    NetIndex netOf(const char* part, const std::string& pin) const {
        const auto found = m_netOfPin.find(pinKey(part, pin));
        return found == m_netOfPin.end() ? -1 : found->second;
    }

    void addComponent(const Placed& placed, Way way) {
        const char* name = placed.node.attribute("refDes").value();
        if (!*name) return m_source.warn(placed.node, "a component without a refDes is left out");
        const auto placing = turned(placed, way);
        const PartIndex index = m_names.part(name);
        Part& part = m_board.parts[index];
        if (!part.pads.empty())
            return m_source.warn(placed.node, std::string("a second component ") + name + " is left out");
        part.package = placed.node.attribute("packageRef").value();
        part.value = placed.node.attribute("part").value();
        part.side = placed.side;
        part.centre = placing.shift;
        part.rotation_deg = placing.turn_deg;
        if (placed.package) {
            part.width_mm = placed.package->width_mm;
            part.height_mm = placed.package->height_mm;
            part.centre = placing.apply(placed.package->middle);
            for (const Pin& pin : placed.package->pins)
                addPin(part, name, pin, placing);
        } else {
            m_source.warn(placed.node, "no package '" + part.package + "': pads come from the copper alone");
        }
        if (part.pads.empty()) addDrawnPads(part, name);
    }

    void addPin(Part& part, const char* name, const Pin& pin, const plane::Placing& placing) {
        Pad pad;
        pad.pin = pin.name;
        pad.at = placing.apply(pin.at);
        pad.net = netOf(name, pin.name);
        pad.side = part.side;
        pad.width_mm = pin.width_mm;
        pad.height_mm = pin.height_mm;
        const double turn = std::fmod(std::fabs(placing.turn_deg), 180);
        constexpr double quarter_deg = 90, half = 45;
        if (std::fabs(turn - quarter_deg) < half) std::swap(pad.width_mm, pad.height_mm);
        if (const auto drawn = m_padsOfPin.find(pinKey(name, pin.name)); drawn != m_padsOfPin.end())
            takeDrawn(pad, drawn->second);
        takeHole(pad, pin.through);
        part.pads.push_back(std::move(pad));
    }

    struct Drawn {
        int layer = 0;
        NetIndex net = -1;
        double width_mm = 0, height_mm = 0;
    };
    using DrawnPads = std::vector<std::pair<BoardPoint, Drawn>>;

    /// Copper that names its pin is surer than a package that was turned.
    static void takeDrawn(Pad& pad, const DrawnPads& drawn) {
        const auto nearest = std::min_element(drawn.begin(), drawn.end(), [&](const auto& a, const auto& b) {
            return distance_mm(a.first, pad.at) < distance_mm(b.first, pad.at);
        });
        pad.at = nearest->first;
        if (pad.net < 0) pad.net = nearest->second.net;
        if (nearest->second.width_mm > 0) {
            pad.width_mm = nearest->second.width_mm;
            pad.height_mm = nearest->second.height_mm;
        }
    }

    void takeHole(Pad& pad, bool through) {
        m_holeAt.near(pad.at, samePlace_mm, [&](BoardPoint, int i) {
            pad.hole_mm = m_holes[i].second.diameter_mm;
            pad.through = true;
            m_holes[i].second.taken = true;
            if (pad.net < 0) pad.net = m_holes[i].second.net;
        });
        pad.through = pad.through || through;
    }

    void addDrawnPads(Part& part, const std::string& name) {
        const std::string from = name + '\n';
        for (auto it = m_padsOfPin.lower_bound(from); it != m_padsOfPin.end() && it->first.starts_with(from);
             ++it) {
            Pad pad;
            pad.pin = it->first.substr(from.size());
            const auto& [at, drawn] = it->second.front();
            pad.at = at;
            pad.net = drawn.net >= 0 ? drawn.net : netOf(name.c_str(), pad.pin);
            pad.side = drawn.layer == 0 ? Side::Top : Side::Bottom;
            pad.width_mm = drawn.width_mm;
            pad.height_mm = drawn.height_mm;
            takeHole(pad, false);
            part.pads.push_back(std::move(pad));
        }
    }

    /// Values stand in the bill of materials, under names that differ between writers.
    void readValues(pugi::xml_node root) {
        forChildren(root, "Bom", [&](pugi::xml_node bom) {
            forChildren(bom, "BomItem", [&](pugi::xml_node item) {
                std::string value;
                forChildren(item.child("Characteristics"), "", [&](pugi::xml_node each) {
                    const bool measured = std::string_view(each.name()) == "Measured";
                    const std::string what = uppered(
                        each.attribute(measured ? "measuredCharacteristicName" : "textualCharacteristicName")
                            .value());
                    if (what.find("VALUE") == std::string::npos && what != "VAL") return;
                    if (!value.empty()) return;
                    value = measured ? std::string(each.attribute("measuredCharacteristicValue").value()) +
                                           each.attribute("engineeringUnitOfMeasure").value()
                                     : each.attribute("textualCharacteristicValue").value();
                });
                forChildren(item, "RefDes", [&](pugi::xml_node ref) {
                    const PartIndex part = m_names.known(ref.attribute("name").value());
                    if (part < 0) return;
                    if (!value.empty()) m_board.parts[part].value = value;
                    if (m_board.parts[part].package.empty())
                        m_board.parts[part].package = ref.attribute("packageRef").value();
                });
            });
        });
    }

    void addVias() {
        for (const auto& [at, hole] : m_holes) {
            if (hole.taken) continue;
            NetIndex net = hole.net;
            if (net < 0)
                m_padAt.near(at, samePlace_mm, [&](BoardPoint, const Drawn& drawn) { net = drawn.net; });
            m_board.vias.push_back({at, net, hole.diameter_mm});
        }
    }

    XmlSource& m_source;
    Primitives m_shapes;
    PadStacks m_stacks;
    Packages m_packages;
    const Layers* m_layers = nullptr;
    Board m_board;
    BoardBuilder m_names{m_board};
    double m_unit_mm = 1;
    std::unordered_map<std::string, NetIndex> m_netOfPin;
    std::map<std::string, DrawnPads> m_padsOfPin; ///< on the outer layers
    Spots<Drawn> m_padAt;
    std::vector<std::pair<BoardPoint, Hole>> m_holes;
    Spots<int> m_holeAt;
};

} // namespace

Result<Board> readIpc2581(std::string_view text, std::string_view fileName) {
    auto source = XmlSource::parse(text, fileName);
    if (!source) return source.error();
    auto board = Reader(source.value()).read();
    if (!board) return Error{board.error().what, std::string(fileName), board.error().kept};
    return board;
}

bool looksLikeIpc2581(std::string_view text) {
    constexpr std::size_t head = 4096;
    return text.substr(0, head).find("<IPC-2581") != std::string_view::npos;
}

} // namespace ustor
