#include "diagnosis/circuit/board_circuit.h"

#include "rail/converters.h"
#include "rail/stretch.h"
#include "rail/switch_pins.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace ustor {
namespace {

/// Drops at one milliampere: the body diode of a switch, the protection of chips between ground and their
/// supply (common practice: 0.5 V; 0.3 to 0.6 V).
constexpr double bodyDrop_v = 0.5, protectionDrop_v = 0.45, barrierDrop_v = 0.25, dropAt_a = 1e-3;

/// Ohms of what joins two nets (common practice).
double linkOhms(const Part& part) {
    switch (part.partClass) {
    case PartClass::SenseResistor:
        return std::max(1e-3, resistorOhms(part.value).value_or(0.01));
    case PartClass::Ferrite:
        return 0.05;
    case PartClass::Fuse:
        return 0.015;
    default:
        return 0.02;
    }
}

/// Chips that take current from what they hang on.
bool consumes(const Part& part) {
    switch (part.partClass) {
    case PartClass::Ic:
    case PartClass::Regulator:
    case PartClass::Processor:
        return true;
    default:
        return false;
    }
}

const Junction& bodyDiode() {
    static const Junction junction = junctionDropping(bodyDrop_v, dropAt_a);
    return junction;
}
const Junction& protection() {
    static const Junction junction = junctionDropping(protectionDrop_v, dropAt_a);
    return junction;
}
/// Rectifiers of low voltages are mostly Schottky barriers.
const Junction& barrier() {
    static const Junction junction = junctionDropping(barrierDrop_v, dropAt_a);
    return junction;
}

} // namespace

BoardCircuit::BoardCircuit(const Board& board, const NetParts& parts)
    : m_board(board), m_parts(parts), m_on(board.nets.size()), m_railOf(board.nets.size(), -1),
      m_consumers(board.nets.size(), 0) {
    addLinks();
    addSwitches();
    addRails();
}

void BoardCircuit::add(Branch branch) {
    const int index = static_cast<int>(m_branches.size());
    for (const NetIndex net : {branch.a, branch.b})
        if (!ground(net)) m_on[static_cast<std::size_t>(net)].push_back(index);
    m_branches.push_back(branch);
}

void BoardCircuit::addLinks() {
    for (PartIndex p = 0; p < static_cast<PartIndex>(m_board.parts.size()); ++p) {
        const Part& part = m_board.parts[p];
        if (!isLink(part)) continue;
        std::set<NetIndex> nets;
        for (const Pad& pad : part.pads)
            if (!ground(pad.net)) nets.insert(pad.net);
        for (auto net = nets.begin(); net != nets.end(); ++net)
            if (net != nets.begin()) add({*nets.begin(), *net, p, linkOhms(part), {}});
    }
}

/// A body diode leads from the side that is fed to the side that feeds, from ground to a switch node.
void BoardCircuit::addSwitches() {
    const auto converters = convertersOf(m_board);
    std::map<PartIndex, const Converter*> insideOf;
    for (const Converter& c : converters)
        for (const auto* side : {&c.highSide, &c.lowSide})
            for (const PartIndex p : *side)
                insideOf[p] = &c;
    for (const Converter& c : converters) {
        m_outputs.push_back(c.output);
        m_inputs.insert(c.input);
    }
    for (const Converter& c : converters)
        if (c.switchNode >= 0) m_switchNodes.insert(c.switchNode);
    for (const Converter& c : converters) {
        // Switches inside a controller have their body diodes as well.
        if (c.controller < 0 || insideOf.count(c.controller) == 0) continue;
        const NetIndex high = c.kind == Converter::Kind::Up ? c.output : c.input;
        add({c.switchNode, high, c.controller, 0, bodyDiode()});
        add({-1, c.switchNode, c.controller, 0, bodyDiode()});
    }
    for (PartIndex p = 0; p < static_cast<PartIndex>(m_board.parts.size()); ++p) {
        const Part& part = m_board.parts[p];
        const bool diode = part.partClass == PartClass::Diode || part.partClass == PartClass::ClampDiode;
        if (part.partClass != PartClass::Mosfet && !diode) continue;
        const SwitchPins pins = switchPinsOf(m_board, m_parts, p);
        if (pins.power.size() != 2) continue; // arrays and pairs: which leads where is not told by the nets
        NetIndex a = pins.power[0], b = pins.power[1];
        if (ground(a) && ground(b)) continue;
        if (ground(b)) std::swap(a, b);
        if (!ground(a)) {
            const auto inside = insideOf.find(p);
            if (inside != insideOf.end()) {
                if (b == inside->second->switchNode) std::swap(a, b);
            } else {
                // Higher working voltages feed lower ones; of equals the body diode's way is a guess.
                const auto volts = [&](NetIndex net) {
                    const auto& nominal = m_board.nets[static_cast<std::size_t>(net)].nominal;
                    return nominal ? nominal->value : -1.0;
                };
                if (volts(a) > volts(b)) std::swap(a, b);
            }
        }
        add({ground(a) ? -1 : a, b, p, 0, part.partClass == PartClass::Diode ? barrier() : bodyDiode()});
    }
}

void BoardCircuit::addRails() {
    std::vector<NetIndex> nets = powerNets(m_board, m_parts);
    const std::set<NetIndex> isPower(nets.begin(), nets.end());
    for (const Branch& branch : m_branches)
        for (const NetIndex net : {branch.a, branch.b})
            if (!ground(net)) nets.push_back(net);
    std::set<NetIndex> gates;
    // Gates carry no power, but read low when a switch is punched to them.
    for (PartIndex p = 0; p < static_cast<PartIndex>(m_board.parts.size()); ++p)
        if (m_board.parts[p].partClass == PartClass::Mosfet)
            if (const NetIndex gate = switchPinsOf(m_board, m_parts, p).control; !ground(gate))
                nets.push_back(gate), gates.insert(gate);
    for (const NetIndex first : nets) {
        if (m_railOf[static_cast<std::size_t>(first)] >= 0) continue;
        const int index = static_cast<int>(m_rails.size());
        Rail rail;
        const Stretch stretch = stretchOf(m_board, m_parts, first);
        rail.nets = stretch.nets;
        std::set<PartIndex> chips;
        bool inside = true;
        for (const NetIndex net : rail.nets) {
            m_railOf[static_cast<std::size_t>(net)] = index;
            // A controller only looks at its switch node.
            for (const PartIndex p : m_parts.on(net))
                if (consumes(m_board.parts[p]) && !m_switchNodes.contains(net)) {
                    ++m_consumers[static_cast<std::size_t>(net)];
                    chips.insert(p);
                }
            inside = inside && m_consumers[static_cast<std::size_t>(net)] == 0;
        }
        rail.consumers = static_cast<int>(chips.size());
        for (const NetIndex net : rail.nets)
            rail.consumerPads += m_consumers[static_cast<std::size_t>(net)];
        const RailKind kind = railKindOf(m_board, m_parts, first);
        RailSigns signs{kind, stretch.nominal};
        signs.consumers = !inside;
        signs.inductor = std::any_of(stretch.links.begin(), stretch.links.end(), [this](PartIndex p) {
            return m_board.parts[p].partClass == PartClass::Inductor;
        });
        signs.feeds = std::any_of(rail.nets.begin(), rail.nets.end(),
                                  [this](NetIndex net) { return m_inputs.contains(net); });
        signs.gate = rail.nets.size() == 1 && gates.contains(rail.nets.front()) && !isPower.contains(first);
        rail.gate = signs.gate;
        for (const PartIndex p : chips) {
            constexpr double large_mm = 9; // processors are that and more (common practice)
            const Part& part = m_board.parts[p];
            signs.largeChip = signs.largeChip || std::min(part.width_mm, part.height_mm) >= large_mm;
        }
        for (const NetIndex net : rail.nets)
            signs.phases += static_cast<int>(std::count(m_outputs.begin(), m_outputs.end(), net));
        rail.levels = loadLevels(signs);
        rail.usualOhms = medianOf(rail.levels);
        m_rails.push_back(std::move(rail));
        m_signs.push_back(signs);
    }
}

void BoardCircuit::setFedByPlug(int rail) {
    constexpr double likePlugs_v = 12;
    const auto i = static_cast<std::size_t>(rail);
    RailSigns& signs = m_signs[i];
    if (signs.nominal || signs.kind == RailKind::Core) return;
    signs.nominal = Volts(likePlugs_v);
    m_rails[i].levels = loadLevels(signs);
    m_rails[i].usualOhms = medianOf(m_rails[i].levels);
}

bool BoardCircuit::Piece::holds(NetIndex net) const {
    return std::binary_search(nets.begin(), nets.end(), net);
}

BoardCircuit::Piece BoardCircuit::pieceOf(NetIndex net, std::span<const PartIndex> off) const {
    Piece piece;
    std::set<NetIndex> reached{net};
    std::vector<NetIndex> open{net};
    while (!open.empty()) {
        const NetIndex here = open.back();
        open.pop_back();
        for (const int index : m_on[static_cast<std::size_t>(here)]) {
            const Branch& branch = m_branches[static_cast<std::size_t>(index)];
            if (branch.ohms == 0 || std::binary_search(off.begin(), off.end(), branch.part)) continue;
            for (const NetIndex next : {branch.a, branch.b})
                if (reached.insert(next).second) open.push_back(next);
        }
    }
    piece.nets.assign(reached.begin(), reached.end());
    const int rail = railOf(net);
    if (rail < 0) return piece;
    const auto consumers = [this](const std::vector<NetIndex>& nets) {
        int count = 0;
        for (const NetIndex each : nets)
            count += m_consumers[static_cast<std::size_t>(each)];
        return count;
    };
    const auto& all = m_rails[static_cast<std::size_t>(rail)].nets;
    if (const int total = m_rails[static_cast<std::size_t>(rail)].consumerPads; total > 0) {
        const int here = consumers(piece.nets);
        piece.loadFactor = here > 0 ? static_cast<double>(total) / here : 0;
    } else {
        piece.loadFactor = piece.holds(all.front()) ? 1 : 0;
    }
    return piece;
}

BoardCircuit::Local BoardCircuit::localNetwork(const ProbedNets& probed, const BoardChange& change) const {
    Local local;
    // Current leaves by red and comes back by black: what no junction leads to from the one, nor from to the
    // other, takes no part. Ground is passed, never gone on from: both sides meet there.
    struct Reached {
        NetIndex net;
        int away;   ///< in junctions
        bool onRed; ///< which lead it was reached from
    };
    std::map<NetIndex, int> nodes;
    std::vector<Reached> open;
    const auto nodeOf = [&](NetIndex net, int away, bool onRed, int joined = -1) {
        if (ground(net)) return 0;
        const auto [at, fresh] = nodes.emplace(net, joined);
        if (fresh) {
            if (joined < 0) at->second = local.network.addNode();
            open.push_back({net, away, onRed});
        }
        return at->second;
    };
    const bool redOnPlace = (probed.mode == MeterMode::Diode) == probed.reversed;
    local.red = nodeOf(redOnPlace ? probed.place : probed.against, 0, true);
    local.black = nodeOf(redOnPlace ? probed.against : probed.place, 0, false);

    const auto isOff = [&](PartIndex part) {
        return std::binary_search(change.off.begin(), change.off.end(), part);
    };
    std::set<int> taken;
    std::set<std::size_t> faults;
    // Breadth first: what hangs together through links before what lies behind a junction.
    // Of a rail with more nets than the method takes, what was reached stands for the rest.
    constexpr int furthest = 5, mostNodes = 80, mostOfLinks = 100, mostJoined = 1000;
    for (int away = 0; away <= furthest; ++away)
        for (std::size_t i = 0; i < open.size(); ++i) {
            if (open[i].away != away) continue;
            const auto [net, at, onRed] = open[i];
            for (std::size_t f = 0; f < change.faults.size(); ++f) {
                const Conductor& fault = change.faults[f];
                if ((fault.a != net && fault.b != net) || !faults.insert(f).second) continue;
                const int a = nodeOf(fault.a, away, onRed), b = nodeOf(fault.b, away, onRed);
                if (a != b) local.network.connect(a, b, Ohms(fault.ohms));
            }
            for (const int index : m_on[static_cast<std::size_t>(net)]) {
                const Branch& branch = m_branches[static_cast<std::size_t>(index)];
                const bool junction = branch.ohms == 0;
                const bool leads = !junction || (onRed ? branch.a : branch.b) == net;
                const NetIndex far = branch.a == net ? branch.b : branch.a;
                const bool reached = ground(far) || nodes.contains(far);
                const bool enough = junction ? away == furthest || local.network.nodes() >= mostNodes
                                             : !reached && (change.linksAreNothing
                                                                ? static_cast<int>(nodes.size()) >= mostJoined
                                                                : local.network.nodes() >= mostOfLinks);
                if (isOff(branch.part) || !leads || enough || !taken.insert(index).second) continue;
                const int joined = !junction && change.linksAreNothing ? nodes.at(net) : -1;
                const int a = nodeOf(branch.a, away + junction, onRed, joined),
                          b = nodeOf(branch.b, away + junction, onRed, joined);
                if (a == b) continue;
                if (junction)
                    local.network.connect(a, b, branch.junction);
                else
                    local.network.connect(a, b, Ohms(branch.ohms));
            }
        }
    std::map<int, int> chips; // nets with any, by node
    for (const auto& [net, node] : nodes) {
        const int index = railOf(net);
        if (index < 0) continue;
        const Rail& rail = m_rails[static_cast<std::size_t>(index)];
        const auto other = std::find_if(change.loads.begin(), change.loads.end(),
                                        [index](const auto& load) { return load.first == index; });
        const double ohms = other == change.loads.end() ? rail.usualOhms : other->second;
        // Shared out by how many chips hang on which net of the rail; without any, all on its first.
        const int here = m_consumers[static_cast<std::size_t>(net)];
        const int all = rail.consumerPads;
        if (all == 0 ? net != rail.nets.front() : here == 0) continue;
        const double share = all == 0 ? 1 : static_cast<double>(all) / here;
        if (index == railOf(probed.place))
            local.ownLoad.emplace_back(local.network.resistors().size(), share);
        local.network.connect(node, 0, Ohms(ohms * share));
        if (here > 0) ++chips[node];
    }
    for (const auto& [node, count] : chips)
        local.network.connect(0, node, {count * protection().saturation_a, protection().emission});
    return local;
}

namespace {

/// Reads one network again and again, each time from where it was left.
class Metered {
  public:
    Metered(BoardCircuit::Local local, MeterMode mode) : m_local(std::move(local)), m_mode(mode) {}

    void setLoad(double ohms) {
        for (const auto& [which, share] : m_local.ownLoad)
            m_local.network.setResistance(which, Ohms(ohms * share));
    }

    std::optional<PredictedReading> read() {
        PredictedReading reading;
        if (m_local.red == m_local.black) return reading;
        if (m_mode == MeterMode::Diode) {
            if (!drive(MeterTest::diode_a)) return std::nullopt;
            reading.value = m_volts;
            reading.overRange = m_volts > MeterTest::diodeMost_v;
            reading.junctionShare = m_last->junctionShare;
            return reading;
        }
        // The largest current that stays below the limit, looked for from the one that it was before.
        if (!drive(m_amps)) return std::nullopt;
        while (m_volts > MeterTest::ohmsMost_v && m_amps > 2 * MeterTest::ohmsSmallest_a)
            if (!drive(m_amps /= 10)) return std::nullopt;
        while (m_volts <= MeterTest::ohmsMost_v && m_amps < MeterTest::ohmsLargest_a / 2) {
            const double volts = m_volts;
            const auto kept = m_last;
            if (!drive(m_amps * 10)) return std::nullopt;
            if (m_volts > MeterTest::ohmsMost_v) {
                m_volts = volts;
                m_last = kept;
                break;
            }
            m_amps *= 10;
        }
        reading.value = m_volts / m_amps;
        reading.overRange = m_volts > MeterTest::ohmsMost_v;
        reading.junctionShare = m_last->junctionShare;
        return reading;
    }

  private:
    bool drive(double amps) {
        m_last = m_local.network.drive(m_local.red, m_local.black, amps, m_last ? &*m_last : nullptr);
        if (!m_last) m_last = m_local.network.drive(m_local.red, m_local.black, amps);
        if (!m_last) return false;
        m_volts = m_last->volts[static_cast<std::size_t>(m_local.red)] -
                  m_last->volts[static_cast<std::size_t>(m_local.black)];
        return true;
    }

    BoardCircuit::Local m_local;
    MeterMode m_mode;
    std::optional<JunctionNetwork::Answer> m_last;
    double m_amps = MeterTest::ohmsSmallest_a, m_volts = 0;
};

} // namespace

std::optional<PredictedReading> BoardCircuit::predict(const ProbedNets& probed,
                                                      const BoardChange& change) const {
    return Metered(localNetwork(probed, change), probed.mode).read();
}

std::vector<PredictedReading> BoardCircuit::predictLevels(const ProbedNets& probed,
                                                          const BoardChange& change) const {
    const auto& levels = m_rails[static_cast<std::size_t>(railOf(probed.place))].levels;
    std::vector<PredictedReading> predicted(levels.size());
    Metered metered(localNetwork(probed, change), probed.mode);
    // From the largest load on. What is far larger than what it lies beside changes nothing.
    constexpr double far = 300;
    double least_ohms = 0;
    for (std::size_t i = levels.size(); i-- > 0;) {
        if (least_ohms > 0 && levels[i].ohms > far * least_ohms) {
            predicted[i] = predicted[i + 1];
            continue;
        }
        metered.setLoad(levels[i].ohms);
        predicted[i] = metered.read().value_or(PredictedReading{true, 0, 0});
        const double ohms =
            probed.mode == MeterMode::Diode ? predicted[i].value / MeterTest::diode_a : predicted[i].value;
        least_ohms = predicted[i].overRange ? 0 : ohms;
    }
    return predicted;
}

} // namespace ustor
