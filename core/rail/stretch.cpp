#include "rail/stretch.h"

#include <algorithm>
#include <set>

namespace ustor {
namespace {

bool conducts(const Part& part, const LinkState& state) {
    if (state.lifted.contains(part.designator)) return false;
    return isLink(part) || state.closedSwitches.contains(part.designator);
}

} // namespace

bool Stretch::holds(NetIndex net) const {
    return std::binary_search(nets.begin(), nets.end(), net);
}

bool isLink(const Part& part) {
    switch (part.partClass) {
    case PartClass::Fuse:
    case PartClass::Ferrite:
    case PartClass::Inductor:
    case PartClass::SenseResistor:
        return part.pads.size() >= 2;
    default:
        return false;
    }
}

namespace {

template <class OnRail> bool couldShortOn(const Board& board, const Part& part, OnRail isRail) {
    switch (part.partClass) {
    case PartClass::TestPoint:
    case PartClass::Mechanical:
    case PartClass::Crystal:
    case PartClass::Resistor:
        return false; // resistors fail open, not short
    default:
        break;
    }
    if (isLink(part)) return false;
    bool onRail = false, onGround = false;
    for (const Pad& pad : part.pads) {
        if (pad.net < 0) continue;
        onGround |= board.nets[pad.net].ground;
        onRail |= isRail(pad.net);
    }
    return onRail && onGround;
}

} // namespace

bool couldShort(const Board& board, const Part& part, const std::vector<NetIndex>& nets) {
    return couldShortOn(board, part,
                        [&](NetIndex net) { return std::find(nets.begin(), nets.end(), net) != nets.end(); });
}

Stretch stretchOf(const Board& board, NetIndex net, const LinkState& state) {
    return stretchOf(board, NetParts(board), net, state);
}

Stretch stretchOf(const Board& board, const NetParts& parts, NetIndex net, const LinkState& state) {
    Stretch stretch;
    if (net < 0 || net >= static_cast<NetIndex>(board.nets.size()) || board.nets[net].ground) return stretch;
    std::set<PartIndex> links, touched;
    std::set<NetIndex> reached{net};
    std::vector<NetIndex> open{net};
    while (!open.empty()) {
        const NetIndex here = open.back();
        open.pop_back();
        for (const PartIndex p : parts.on(here)) {
            touched.insert(p);
            const Part& part = board.parts[p];
            if (!conducts(part, state)) continue;
            links.insert(p);
            for (const Pad& pad : part.pads) {
                // A switch conducts between its power pins only; a control pin is a net of its own kind.
                const bool power =
                    pad.net >= 0 && !board.nets[pad.net].ground && (isLink(part) || pad.pin != "G");
                if (power && reached.insert(pad.net).second) open.push_back(pad.net);
            }
        }
    }
    stretch.nets.assign(reached.begin(), reached.end());
    stretch.links.assign(links.begin(), links.end());
    for (const PartIndex p : touched)
        if (!state.lifted.contains(board.parts[p].designator) &&
            couldShortOn(board, board.parts[p], [&](NetIndex n) { return stretch.holds(n); }))
            stretch.suspects.push_back(p);
    for (const NetIndex n : stretch.nets)
        if (const auto& nominal = board.nets[n].nominal;
            nominal && (!stretch.nominal || *nominal < *stretch.nominal))
            stretch.nominal = nominal;
    return stretch;
}

/// "47u", "1 µF": a microfarad and more; what is smaller keeps a signal clean.
static bool holdsMicrofarads(const std::string& value) {
    const std::size_t unit = value.find_first_not_of("0123456789., ");
    return unit != std::string::npos && unit > 0 &&
           (value[unit] == 'u' || value[unit] == 'U' || value.compare(unit, 2, "\xc2\xb5") == 0 ||
            value.compare(unit, 2, "\xce\xbc") == 0);
}

/// A capacitor to ground that is there for power.
static bool holdsPower(const Board& board, const NetParts& parts, NetIndex net) {
    const auto& on = parts.on(net);
    return std::any_of(on.begin(), on.end(), [&](PartIndex p) {
        const Part& part = board.parts[p];
        return couldShort(board, part, {net}) &&
               (part.partClass == PartClass::PolarCapacitor ||
                (part.partClass == PartClass::CeramicCapacitor && holdsMicrofarads(part.value)));
    });
}

/// A chip between ground and two other nets.
static bool hasThreeLegs(const Board& board, PartIndex p) {
    const Part& part = board.parts[p];
    if (part.partClass != PartClass::Ic && part.partClass != PartClass::Regulator) return false;
    std::set<NetIndex> nets;
    bool grounded = false;
    for (const Pad& pad : part.pads) {
        if (pad.net < 0) continue;
        grounded = grounded || board.nets[pad.net].ground;
        nets.insert(pad.net);
    }
    return grounded && nets.size() == 3;
}

std::vector<NetIndex> powerNets(const Board& board) {
    return powerNets(board, NetParts(board));
}

std::vector<NetIndex> powerNets(const Board& board, const NetParts& parts) {
    std::vector<std::pair<int, NetIndex>> ranked, single;
    for (NetIndex n = 0; n < static_cast<NetIndex>(board.nets.size()); ++n) {
        if (board.nets[n].ground) continue;
        int shorters = 0, capacitors = 0;
        for (const PartIndex p : parts.on(n)) {
            const Part& part = board.parts[p];
            if (!couldShort(board, part, {n})) continue;
            ++shorters;
            capacitors +=
                part.partClass == PartClass::CeramicCapacitor || part.partClass == PartClass::PolarCapacitor;
        }
        // Decoupling tells a rail from a signal where the name does not: two capacitors to ground.
        const bool named = board.nets[n].nominal && shorters >= 1;
        if (named || capacitors >= 2)
            ranked.emplace_back(-shorters, n);
        else if (capacitors == 1)
            single.emplace_back(-shorters, n);
    }
    // One is enough behind an inductor, which is what a converter's output looks like; and on the other side
    // of a chip with three legs, one on a rail and one on ground: that is a regulator, whatever its name
    // (common practice).
    // And a large one where something plugs in: what the board gives away there.
    const std::size_t sure = ranked.size();
    const auto onSure = [&](PartIndex p) {
        return std::any_of(ranked.begin(), ranked.begin() + static_cast<std::ptrdiff_t>(sure),
                           [&](const auto& rail) { return board.touches(p, rail.second); });
    };
    for (const auto& [shorters, n] : single)
        for (const PartIndex p : parts.on(n))
            if (board.parts[p].partClass == PartClass::Inductor || (hasThreeLegs(board, p) && onSure(p)) ||
                (board.parts[p].partClass == PartClass::Connector && holdsPower(board, parts, n))) {
                ranked.emplace_back(shorters, n);
                break;
            }
    std::sort(ranked.begin(), ranked.end());
    std::vector<NetIndex> nets;
    for (const auto& [count, n] : ranked)
        nets.push_back(n);
    return nets;
}

std::string nameOf(const Board& board, const Stretch& stretch) {
    std::string text;
    for (const NetIndex n : stretch.nets)
        text += (text.empty() ? "" : ", ") + board.nets[n].name;
    return text;
}

} // namespace ustor
