#include "board/ipc2581_reader.h"

#include "base/number_text.h"
#include "board/board_builder.h"
#include "board/ipc2581/layer_features.h"
#include "board/ipc2581/layers.h"
#include "board/ipc2581/packages.h"
#include "board/ipc2581/pin_notes.h"
#include "board/ipc2581/primitives.h"
#include "board/ipc2581/spots.h"

#include <algorithm>
#include <cmath>
#include <deque>
#include <iterator>
#include <mutex>
#include <system_error>
#include <thread>
#include <utility>

namespace ustor {
namespace {

using namespace ipc2581;

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
        if (!unit) m_source.warn(header, say("CadHeader names no unit that is known: read as millimetres"));
        m_unit_mm = unit.value_or(1.0);
        const auto data = ecad.child("CadData");
        const auto step = boardStep(data);
        if (!step) return Error{say("no Step: the file describes no board"), "", say("nothing was read")};
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
        readStep(root, step);
        placeComponents();
        addVias();
        // A file that gives no copper at all says nothing about it.
        if (std::all_of(m_board.copper.begin(), m_board.copper.end(),
                        [](const CopperLayer& layer) { return layer.pieces.empty(); }))
            m_board.copper.clear();
        m_board.warnings = m_source.takeWarnings();
        constexpr std::size_t enough = 200; // a file that is wrong in each line says so often enough
        const auto more =
            std::min(m_layerWarnings.size(), enough - std::min(enough, m_board.warnings.size()));
        m_board.warnings.insert(m_board.warnings.end(), m_layerWarnings.begin(),
                                m_layerWarnings.begin() + static_cast<long>(more));
        return std::move(m_board);
    }

  private:
    static pugi::xml_node boardStep(pugi::xml_node data) {
        pugi::xml_node best = data.child("Step");
        if (!best.next_sibling("Step")) return best;
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

    void readNets(pugi::xml_node step) {
        forChildren(step, "LogicalNet",
                    [&](pugi::xml_node logical) { m_names.net(logical.attribute("name").value()); });
    }

    void readPins(pugi::xml_node step) {
        forChildren(step, "LogicalNet", [&](pugi::xml_node logical) {
            const NetIndex net = m_names.knownNet(logical.attribute("name").value());
            forChildren(logical, "PinRef", [&](pugi::xml_node pin) {
                m_pins.at(pin.attribute("componentRef").value(), pin.attribute("pin").value()).net = net;
            });
        });
    }

    // ---- copper, pads and holes, layer by layer ----

    /// Some thousand sets of one layer: enough for a thread, few enough to share the work evenly.
    struct Run {
        std::string layer;
        int copper = -1;
        std::vector<pugi::xml_node> sets;
        LayerFeatures features;
    };

    /// Runs in the file's order, given out one by one.
    class Runs {
      public:
        Runs(pugi::xml_node step, const Layers& layers)
            : m_layers(layers), m_layer(step.child("LayerFeature")), m_set(m_layer.child("Set")) {}
        /// nullptr when there is none left.
        Run* next() {
            constexpr std::size_t most = 8000;
            const std::lock_guard guard(m_mutex);
            while (m_layer && !m_set) {
                m_layer = m_layer.next_sibling("LayerFeature");
                m_set = m_layer.child("Set");
            }
            if (!m_layer) return nullptr;
            const std::string name = m_layer.attribute("layerRef").value();
            Run& run = m_runs.emplace_back(Run{name, m_layers.copperIndex(name), {}, {}});
            for (; m_set && run.sets.size() < most; m_set = m_set.next_sibling("Set"))
                run.sets.push_back(m_set);
            return &run;
        }
        std::deque<Run>& all() { return m_runs; }

      private:
        const Layers& m_layers;
        pugi::xml_node m_layer, m_set;
        std::mutex m_mutex;
        std::deque<Run> m_runs;
    };

    /// Layers are read on as many threads as the machine has, while this one reads the lists; then they are
    /// put together in the file's order, so that the result does not depend on the threads.
    void readStep(pugi::xml_node root, pugi::xml_node step) {
        Runs runs(step, *m_layers);
        // What the board knows must not change while others look names up.
        const auto work = [&, names = &std::as_const(m_names)] {
            while (Run* run = runs.next())
                run->features = LayerReader(m_source, m_stacks, *names, run->copper, run->layer, m_unit_mm)
                                    .read(root.child("Content"), run->sets);
        };
        constexpr unsigned most = 8; // memory is the limit by then
        std::vector<std::thread> helpers;
        try {
            while (helpers.size() + 1 < std::min(most, std::thread::hardware_concurrency()))
                helpers.emplace_back(work);
        } catch (const std::system_error&) {
            // The machine gives no more threads: those there are, and this one, do all of it.
        }
        readPins(step);
        m_packages.read(step, m_shapes, m_source, m_unit_mm);
        listComponents(step);
        readValues(root);
        work();
        for (std::thread& helper : helpers)
            helper.join();
        std::vector<std::size_t> pieces(m_board.copper.size());
        for (const Run& run : runs.all())
            if (run.copper >= 0) pieces[run.copper] += run.features.copper.size();
        for (std::size_t i = 0; i < pieces.size(); ++i)
            m_board.copper[i].pieces.reserve(pieces[i]);
        for (Run& run : runs.all())
            take(std::move(run.features), run.copper);
    }

    void take(LayerFeatures layer, int copper) {
        if (!layer.newNets.empty()) nameNets(layer);
        if (copper >= 0) draw(layer, m_board.copper[copper]);
        for (const auto& hole : layer.holes)
            keepHole(hole.at, hole.diameter_mm, hole.net);
        if (outer(copper))
            for (const LayerFeatures::PinPad& named : layer.pinPads) {
                auto& note = m_pins.at(named.part, named.pin);
                if (note.drawn)
                    note.more.push_back(named.pad);
                else
                    note.drawn = named.pad;
            }
        m_drawnPads.push_back(std::move(layer.pads));
        std::move(layer.warnings.begin(), layer.warnings.end(), std::back_inserter(m_layerWarnings));
    }

    void nameNets(LayerFeatures& layer) {
        std::vector<NetIndex> nets;
        for (const std::string_view name : layer.newNets)
            nets.push_back(m_names.net(name));
        const auto name = [&](NetIndex& net) {
            if (net <= LayerFeatures::firstNew) net = nets[LayerFeatures::firstNew - net];
        };
        for (CopperPiece& piece : layer.copper)
            name(piece.net);
        for (auto& hole : layer.holes)
            name(hole.net);
        for (auto& [at, net] : layer.pads)
            name(net);
        for (auto& named : layer.pinPads)
            name(named.pad.net);
    }

    static void draw(LayerFeatures& run, CopperLayer& layer) {
        std::size_t drawn = 0;
        const auto drawTo = [&](std::size_t end) {
            std::move(run.copper.begin() + static_cast<long>(drawn),
                      run.copper.begin() + static_cast<long>(end), std::back_inserter(layer.pieces));
            drawn = end;
        };
        for (const LayerFeatures::Cut& cut : run.cuts) {
            drawTo(cut.after);
            layer = without(layer, cut.shape);
        }
        drawTo(run.copper.size());
    }

    /// Files give one hole many times: by its stack of pads on each layer, and among the drills; mostly in
    /// the same order.
    void keepHole(BoardPoint at, double diameter_mm, NetIndex net) {
        const auto isAt = [&](std::size_t i) {
            return i < m_holes.size() && distance_mm(m_holes[i].first, at) <= samePlace_mm;
        };
        int known = isAt(m_nextHole) ? static_cast<int>(m_nextHole) : -1;
        if (known < 0) m_holeAt.near(at, samePlace_mm, [&](BoardPoint, int i) { known = i; });
        if (known < 0) {
            known = static_cast<int>(m_holes.size());
            m_holes.push_back({at, {}});
            m_holeAt.add(at, known);
        }
        m_nextHole = static_cast<std::size_t>(known) + 1;
        Hole& hole = m_holes[known].second;
        if (diameter_mm > 0) hole.diameter_mm = diameter_mm;
        if (net >= 0) hole.net = net;
    }

    const Spots<NetIndex>& drawnPads() {
        if (!m_padAt) {
            m_padAt.emplace();
            for (const auto& run : m_drawnPads)
                for (const auto& [at, net] : run)
                    m_padAt->add(at, net);
        }
        return *m_padAt;
    }

    bool outer(int copper) const {
        return copper == 0 || copper == static_cast<int>(m_board.copper.size()) - 1;
    }

    // ---- components ----

    struct Placed {
        pugi::xml_node node;
        const Package* package = nullptr;
        plane::Placing placing;
        Side side = Side::Top;
        PartIndex part = -1;
    };

    /// The list of parts, with what does not need their copper.
    void listComponents(pugi::xml_node step) {
        forChildren(step, "Component", [&](pugi::xml_node node) {
            const char* name = node.attribute("refDes").value();
            if (!*name) return m_source.warn(node, say("a component without a refDes is left out"));
            if (m_names.known(name) >= 0)
                return m_source.warn(node, say("a second component {name} is left out", {{"name", name}}));
            Placed placed;
            placed.node = node;
            placed.part = m_names.part(name);
            placed.placing = m_shapes.placingOf(node, m_unit_mm);
            Part& part = m_board.parts[placed.part];
            part.package = node.attribute("packageRef").value();
            part.value = node.attribute("part").value();
            part.side = m_layers->sideOf(node.attribute("layerRef").value());
            placed.side = part.side;
            placed.package = m_packages.find(part.package);
            if (!placed.package)
                m_source.warn(node, say("no package '{package}': pads come from the copper alone",
                                        {{"package", part.package}}));
            m_placed.push_back(placed);
        });
    }

    void placeComponents() {
        const Way way = wayOfTurning(m_placed);
        const auto placeAll = [&](std::size_t from, std::size_t to, std::vector<int>& taken) {
            for (std::size_t i = from; i < to; ++i)
                place(m_placed[i], way, taken);
        };
        const std::size_t half = m_placed.size() / 2;
        std::vector<int> takenHere, takenThere;
        std::thread helper;
        try {
            helper = std::thread([&] { placeAll(half, m_placed.size(), takenThere); });
        } catch (const std::system_error&) {
            placeAll(half, m_placed.size(), takenThere);
        }
        placeAll(0, half, takenHere);
        if (helper.joinable()) helper.join();
        for (const auto& taken : {takenHere, takenThere})
            for (const int hole : taken)
                m_holes[hole].second.taken = true;
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
                auto notes = m_pins.of(placed.node.attribute("refDes").value());
                for (const Pin& pin : placed.package->pins) {
                    const auto* note = notes.find(pin.name);
                    if (!note || note->net < 0) continue;
                    const NetIndex net = note->net;
                    ++asked;
                    bool hit = false;
                    if (note->drawn && note->more.empty())
                        hit = distance_mm(note->drawn->at, placing.apply(pin.at)) <= samePlace_mm;
                    else
                        drawnPads().near(placing.apply(pin.at), samePlace_mm,
                                         [&](BoardPoint, NetIndex drawn) { hit = hit || drawn == net; });
                    fit += hit;
                }
            }
            if (fit > most) {
                most = fit;
                best = way;
            }
        }
        if (asked > 0 && most * 2 < asked && most > 0)
            m_source.warn(all.front().node,
                          say("most pins of the packages do not lie on pads of their nets"));
        return best;
    }

    /// `taken` lists the holes that turn out to be of pads. Changes nothing but its part.
    void place(const Placed& placed, Way way, std::vector<int>& taken) {
        Part& part = m_board.parts[placed.part];
        const auto placing = turned(placed, way);
        part.centre = placing.shift;
        part.rotation_deg = placing.turn_deg;
        auto notes = m_pins.of(part.designator);
        if (placed.package) {
            part.width_mm = placed.package->width_mm;
            part.height_mm = placed.package->height_mm;
            part.centre = placing.apply(placed.package->middle);
            part.pads.reserve(placed.package->pins.size());
            for (const Pin& pin : placed.package->pins)
                addPin(part, notes, pin, placing, taken);
        }
        if (part.pads.empty()) addDrawnPads(part, notes, taken);
    }

    void addPin(Part& part, PinNotes::OfPart& notes, const Pin& pin, const plane::Placing& placing,
                std::vector<int>& taken) const {
        Pad& pad = part.pads.emplace_back();
        pad.pin = pin.name;
        pad.at = placing.apply(pin.at);
        const auto* note = notes.find(pin.name);
        if (note) pad.net = note->net;
        pad.side = part.side;
        pad.width_mm = pin.width_mm;
        pad.height_mm = pin.height_mm;
        const double turn = std::fmod(std::fabs(placing.turn_deg), 180);
        constexpr double quarter_deg = 90, half = 45;
        if (std::fabs(turn - quarter_deg) < half) std::swap(pad.width_mm, pad.height_mm);
        if (note && note->drawn) takeDrawn(pad, *note);
        if (!pin.surface) takeHole(pad, pin.through, taken);
    }

    /// Copper that names its pin is surer than a package that was turned.
    static void takeDrawn(Pad& pad, const PinNotes::Note& note) {
        const DrawnPad* nearest = &*note.drawn;
        for (const DrawnPad& other : note.more)
            if (distance_mm(other.at, pad.at) < distance_mm(nearest->at, pad.at)) nearest = &other;
        pad.at = nearest->at;
        if (pad.net < 0) pad.net = nearest->net;
        if (nearest->width_mm > 0) {
            pad.width_mm = nearest->width_mm;
            pad.height_mm = nearest->height_mm;
        }
    }

    void takeHole(Pad& pad, bool through, std::vector<int>& taken) const {
        m_holeAt.near(pad.at, samePlace_mm, [&](BoardPoint, int i) {
            pad.hole_mm = m_holes[i].second.diameter_mm;
            pad.through = true;
            taken.push_back(i);
            if (pad.net < 0) pad.net = m_holes[i].second.net;
        });
        pad.through = pad.through || through;
    }

    void addDrawnPads(Part& part, const PinNotes::OfPart& notes, std::vector<int>& taken) const {
        for (const PinNotes::Note* note : notes.drawn()) {
            const DrawnPad& drawn = *note->drawn;
            Pad& pad = part.pads.emplace_back();
            pad.pin = note->pin;
            pad.at = drawn.at;
            pad.net = drawn.net >= 0 ? drawn.net : note->net;
            pad.side = drawn.layer == 0 ? Side::Top : Side::Bottom;
            pad.width_mm = drawn.width_mm;
            pad.height_mm = drawn.height_mm;
            takeHole(pad, false, taken);
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
            if (net < 0) drawnPads().near(at, samePlace_mm, [&](BoardPoint, NetIndex drawn) { net = drawn; });
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
    PinNotes m_pins;
    std::vector<Placed> m_placed;
    std::vector<BoardWarning> m_layerWarnings;
    std::vector<std::vector<std::pair<BoardPoint, NetIndex>>> m_drawnPads; ///< by runs
    std::optional<Spots<NetIndex>> m_padAt; ///< of drawn pads; made when the first question comes
    std::vector<std::pair<BoardPoint, Hole>> m_holes;
    Spots<int> m_holeAt;
    std::size_t m_nextHole = 0; ///< where the next one probably is
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
