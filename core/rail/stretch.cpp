#include "rail/stretch.h"

#include <algorithm>

namespace ustor {
namespace {

/// Pads by net, built once a call: boards have tens of thousands of pads and nets are asked one after the
/// other.
std::vector<std::vector<PartIndex>> partsByNet(const Board& board) {
    std::vector<std::vector<PartIndex>> parts(board.nets.size());
    for (PartIndex p = 0; p < static_cast<PartIndex>(board.parts.size()); ++p)
        for (const Pad& pad : board.parts[p].pads)
            if (pad.net >= 0 && (parts[pad.net].empty() || parts[pad.net].back() != p))
                parts[pad.net].push_back(p);
    return parts;
}

bool conducts(const Part& part, const LinkState& state) {
    if (state.lifted.contains(part.designator)) return false;
    return isLink(part) || state.closedSwitches.contains(part.designator);
}

} // namespace

bool Stretch::holds(NetIndex net) const {
    return std::find(nets.begin(), nets.end(), net) != nets.end();
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
    Stretch stretch;
    if (net < 0 || net >= static_cast<NetIndex>(board.nets.size()) || board.nets[net].ground) return stretch;
    const auto byNet = partsByNet(board);
    std::set<PartIndex> links, touched;
    std::set<NetIndex> reached{net};
    std::vector<NetIndex> open{net};
    while (!open.empty()) {
        const NetIndex here = open.back();
        open.pop_back();
        for (const PartIndex p : byNet[here]) {
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
    // A stretch may hold thousands of nets: none of them is looked for one after the other.
    std::vector<bool> held(board.nets.size(), false);
    for (const NetIndex n : stretch.nets)
        held[n] = true;
    for (const PartIndex p : touched)
        if (!state.lifted.contains(board.parts[p].designator) &&
            couldShortOn(board, board.parts[p], [&](NetIndex n) { return held[n]; }))
            stretch.suspects.push_back(p);
    for (const NetIndex n : stretch.nets)
        if (const auto& nominal = board.nets[n].nominal;
            nominal && (!stretch.nominal || *nominal < *stretch.nominal))
            stretch.nominal = nominal;
    return stretch;
}

std::vector<NetIndex> powerNets(const Board& board) {
    const auto byNet = partsByNet(board);
    std::vector<std::pair<int, NetIndex>> ranked;
    for (NetIndex n = 0; n < static_cast<NetIndex>(board.nets.size()); ++n) {
        if (board.nets[n].ground) continue;
        int shorters = 0, capacitors = 0;
        for (const PartIndex p : byNet[n]) {
            const Part& part = board.parts[p];
            if (!couldShort(board, part, {n})) continue;
            ++shorters;
            capacitors +=
                part.partClass == PartClass::CeramicCapacitor || part.partClass == PartClass::PolarCapacitor;
        }
        // Decoupling tells a rail from a signal where the name does not: two capacitors to ground.
        const bool named = board.nets[n].nominal && shorters >= 1;
        if (named || capacitors >= 2) ranked.emplace_back(-shorters, n);
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
