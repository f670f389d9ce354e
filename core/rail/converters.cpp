#include "rail/converters.h"

#include "rail/stretch.h"

#include <algorithm>
#include <map>
#include <set>

namespace ustor {
namespace {

bool isSwitch(const Part& part) {
    return part.partClass == PartClass::Mosfet || part.partClass == PartClass::Diode ||
           part.partClass == PartClass::ClampDiode;
}

bool isControl(const Part& part) {
    return part.partClass == PartClass::Regulator || part.partClass == PartClass::Ic;
}

class Finder {
  public:
    explicit Finder(const Board& board) : m_board(board), m_on(board.nets.size()) {
        for (PartIndex p = 0; p < static_cast<PartIndex>(board.parts.size()); ++p)
            for (const Pad& pad : board.parts[p].pads)
                if (pad.net >= 0 && (m_on[pad.net].empty() || m_on[pad.net].back() != p))
                    m_on[pad.net].push_back(p);
        for (const NetIndex net : powerNets(board))
            m_power.insert(net);
    }

    std::vector<Converter> all() const {
        std::vector<Converter> found;
        for (PartIndex p = 0; p < static_cast<PartIndex>(m_board.parts.size()); ++p) {
            const Part& part = m_board.parts[p];
            if (part.partClass != PartClass::Inductor || part.pads.size() < 2) continue;
            const NetIndex a = part.pads.front().net, b = part.pads.back().net;
            if (a < 0 || b < 0 || a == b) continue;
            for (const auto& [node, other] : {std::pair{a, b}, {b, a}})
                if (auto converter = around(p, node, other)) {
                    found.push_back(std::move(*converter));
                    break;
                }
        }
        std::vector<std::size_t> raise;
        for (std::size_t i = 0; i < found.size(); ++i)
            if (found[i].kind == Converter::Kind::Down && raises(found, i)) raise.push_back(i);
        for (const std::size_t i : raise) {
            found[i].kind = Converter::Kind::Up;
            std::swap(found[i].input, found[i].output);
        }
        return found;
    }

  private:
    bool ground(NetIndex net) const { return net >= 0 && m_board.nets[net].ground; }

    int capacitorsToGround(NetIndex net) const {
        return static_cast<int>(std::count_if(m_on[net].begin(), m_on[net].end(), [&](PartIndex p) {
            const Part& part = m_board.parts[p];
            const bool capacitor =
                part.partClass == PartClass::CeramicCapacitor || part.partClass == PartClass::PolarCapacitor;
            return capacitor && std::any_of(part.pads.begin(), part.pads.end(),
                                            [&](const Pad& pad) { return ground(pad.net); });
        }));
    }

    /// Nets of a switch besides the node that carry power: neither its gate nor ground.
    std::vector<NetIndex> powerSides(const Part& part, NetIndex node) const {
        std::vector<NetIndex> sides;
        for (const Pad& pad : part.pads)
            if (pad.net >= 0 && pad.net != node && !ground(pad.net) && pad.pin != "G" &&
                (m_power.contains(pad.net) || part.partClass != PartClass::Mosfet))
                sides.push_back(pad.net);
        return sides;
    }
    static bool touchesGround(const Board& board, const Part& part) {
        return std::any_of(part.pads.begin(), part.pads.end(),
                           [&](const Pad& pad) { return pad.net >= 0 && board.nets[pad.net].ground; });
    }

    std::optional<Converter> around(PartIndex inductor, NetIndex node, NetIndex other) const {
        if (ground(node) || ground(other) || m_board.nets[node].nominal) return std::nullopt;
        // A decoupled net is a rail; a snubber's single capacitor is not decoupling.
        constexpr int snubber = 1;
        if (capacitorsToGround(node) > snubber || capacitorsToGround(other) == 0) return std::nullopt;
        Converter c;
        c.inductor = inductor;
        c.switchNode = node;
        std::map<NetIndex, int> far; // the net that the high side leads to
        for (const PartIndex p : m_on[node]) {
            const Part& part = m_board.parts[p];
            if (!isSwitch(part)) continue;
            const auto sides = powerSides(part, node);
            for (const NetIndex side : sides)
                ++far[side];
            if (!sides.empty()) c.highSide.push_back(p);
            if (touchesGround(m_board, part)) c.lowSide.push_back(p);
        }
        c.controller = controllerOf(c);
        if (c.controller >= 0 && (c.highSide.empty() || c.lowSide.empty())) {
            // Switches inside the controller: its other power pins are the input.
            const Part& chip = m_board.parts[c.controller];
            const bool onNode = m_board.touches(c.controller, node);
            if (onNode && c.highSide.empty())
                for (const Pad& pad : chip.pads)
                    if (m_power.contains(pad.net) && pad.net != other) {
                        c.highSide = {c.controller};
                        ++far[pad.net];
                    }
            if (onNode && c.lowSide.empty() && touchesGround(m_board, chip)) c.lowSide = {c.controller};
        }
        if (c.highSide.empty() || c.lowSide.empty()) return std::nullopt;
        const NetIndex side = std::max_element(far.begin(), far.end(), [](const auto& x, const auto& y) {
                                  return x.second < y.second;
                              })->first;
        c.kind = isUp(c) ? Converter::Kind::Up : Converter::Kind::Down;
        c.input = c.kind == Converter::Kind::Up ? other : side;
        c.output = c.kind == Converter::Kind::Up ? side : other;
        return c;
    }

    /// With both switches inside one chip nothing but the rails tells the way: none is lowered to a higher
    /// voltage, and a net that others are made of is hardly made of one that nothing else feeds or takes
    /// from.
    bool raises(const std::vector<Converter>& all, std::size_t which) const {
        const Converter& c = all[which];
        const bool within = c.highSide == std::vector<PartIndex>{c.controller} && c.lowSide == c.highSide;
        if (!within || !m_board.touches(c.controller, c.output)) return false;
        const auto &from = m_board.nets[c.input].nominal, &to = m_board.nets[c.output].nominal;
        if (from && to && *from < *to) return true;
        const auto others = [&](auto&& is) {
            return std::any_of(all.begin(), all.end(), [&](const Converter& other) {
                return other.controller != c.controller && is(other);
            });
        };
        const bool madeOf = others([&](const Converter& o) { return o.input == c.output; });
        const bool joined =
            others([&](const Converter& o) { return o.input == c.input || o.output == c.input; });
        return madeOf && !joined &&
               std::none_of(m_on[c.input].begin(), m_on[c.input].end(),
                            [&](PartIndex p) { return bringsPower(p, c.input); });
    }

    /// A part as they stand where power comes in. A plug that carries several rails takes them.
    bool bringsPower(PartIndex p, NetIndex net) const {
        const Part& part = m_board.parts[p];
        switch (part.partClass) {
        case PartClass::Fuse:
        case PartClass::Ferrite:
        case PartClass::SenseResistor:
        case PartClass::ClampDiode:
        case PartClass::Mosfet:
            return true;
        case PartClass::Connector:
            return std::none_of(part.pads.begin(), part.pads.end(), [&](const Pad& pad) {
                return pad.net >= 0 && pad.net != net && m_power.contains(pad.net);
            });
        default:
            return false;
        }
    }

    /// A converter that raises the voltage has its inductor at the input. Two switches are built alike both
    /// ways; a diode that leads away from the node shows it.
    bool isUp(const Converter& c) const {
        const bool diodesUp = std::all_of(c.highSide.begin(), c.highSide.end(), [&](PartIndex p) {
            return m_board.parts[p].partClass != PartClass::Mosfet && !isControl(m_board.parts[p]);
        });
        const bool switchDown = std::any_of(c.lowSide.begin(), c.lowSide.end(), [&](PartIndex p) {
            return m_board.parts[p].partClass == PartClass::Mosfet || isControl(m_board.parts[p]);
        });
        return diodesUp && switchDown;
    }

    /// The chip that shares most nets with the switch node and the gates.
    PartIndex controllerOf(const Converter& c) const {
        std::set<NetIndex> control{c.switchNode};
        for (const auto* switches : {&c.highSide, &c.lowSide})
            for (const PartIndex p : *switches)
                for (const Pad& pad : m_board.parts[p].pads)
                    if (pad.net >= 0 && !ground(pad.net) && !m_power.contains(pad.net))
                        control.insert(pad.net);
        std::map<PartIndex, int> shared;
        for (const NetIndex net : control)
            for (const PartIndex p : m_on[net])
                if (isControl(m_board.parts[p])) ++shared[p];
        PartIndex best = -1;
        int most = 0;
        for (const auto& [p, count] : shared) {
            // A regulator goes before a chip that only listens.
            const int weight = 2 * count + (m_board.parts[p].partClass == PartClass::Regulator);
            if (weight > most) {
                most = weight;
                best = p;
            }
        }
        return best;
    }

    const Board& m_board;
    std::vector<std::vector<PartIndex>> m_on;
    std::set<NetIndex> m_power;
};

} // namespace

std::vector<Converter> convertersOf(const Board& board) {
    return Finder(board).all();
}

std::vector<int> phasesOf(const std::vector<Converter>& converters, int which) {
    std::vector<int> phases;
    const Converter& own = converters[which];
    for (int i = 0; i < static_cast<int>(converters.size()); ++i) {
        const Converter& other = converters[i];
        const bool sameControl =
            own.controller < 0 || other.controller < 0 || own.controller == other.controller;
        if (i != which && other.input == own.input && other.output == own.output && sameControl)
            phases.push_back(i);
    }
    return phases;
}

std::vector<LinearRegulator> linearRegulatorsOf(const Board& board,
                                                const std::vector<Converter>& converters) {
    std::set<PartIndex> switching;
    for (const Converter& c : converters)
        switching.insert(c.controller);
    const auto power = powerNets(board);
    std::vector<LinearRegulator> found;
    for (PartIndex p = 0; p < static_cast<PartIndex>(board.parts.size()); ++p) {
        const Part& part = board.parts[p];
        if (part.partClass != PartClass::Regulator || switching.contains(p)) continue;
        std::vector<NetIndex> rails;
        for (const NetIndex net : power)
            if (board.nets[net].nominal && board.touches(p, net)) rails.push_back(net);
        if (rails.size() < 2) continue;
        const auto [low, high] = std::minmax_element(rails.begin(), rails.end(), [&](NetIndex a, NetIndex b) {
            return *board.nets[a].nominal < *board.nets[b].nominal;
        });
        // What sits on both sides of a switch at one voltage steers or watches it.
        if (!(*board.nets[*low].nominal < *board.nets[*high].nominal)) continue;
        found.push_back({p, *high, *low});
    }
    return found;
}

} // namespace ustor
