#include "diagnosis/circuit/feed.h"

#include "rail/switch_pins.h"

#include <algorithm>
#include <deque>

namespace ustor {
namespace {

bool isChip(const Part& part) {
    return part.partClass == PartClass::Regulator || part.partClass == PartClass::Ic;
}

/// The chips that steer a switch: on its gate's net, or behind a resistor in it. Without one the switch stays
/// open.
void addDrivers(const Board& board, const NetParts& parts, PartIndex which, std::vector<PartIndex>& to) {
    if (board.parts[which].partClass != PartClass::Mosfet) return;
    const NetIndex gate = switchPinsOf(board, parts, which).control;
    if (gate < 0 || board.nets[gate].ground) return;
    std::vector<NetIndex> nets{gate};
    for (const PartIndex p : parts.on(gate))
        if (board.parts[p].partClass == PartClass::Resistor && board.parts[p].pads.size() == 2)
            for (const Pad& pad : board.parts[p].pads)
                if (pad.net >= 0 && pad.net != gate && !board.nets[pad.net].ground) nets.push_back(pad.net);
    // A net with many chips is a supply that a resistor pulls the gate to.
    constexpr std::size_t most = 2;
    for (const NetIndex net : nets) {
        std::vector<PartIndex> chips;
        for (const PartIndex p : parts.on(net))
            if (isChip(board.parts[p])) chips.push_back(p);
        if (chips.size() > most) continue;
        for (const PartIndex p : chips)
            if (std::find(to.begin(), to.end(), p) == to.end()) to.push_back(p);
    }
}

} // namespace

Feed::Feed(const Board& board, const BoardCircuit& circuit)
    : m_stages(circuit.rails().size(), FeedStage::Unfed), m_ways(circuit.rails().size()) {
    const PowerPath path = powerPath(board);
    const NetParts parts(board);
    std::deque<int> open;
    const auto reach = [&](int rail, FeedStage stage) {
        FeedStage& own = m_stages[static_cast<std::size_t>(rail)];
        if (own != FeedStage::Unfed) return false;
        own = stage;
        open.push_back(rail);
        return true;
    };
    for (PartIndex p = 0; p < static_cast<PartIndex>(board.parts.size()); ++p)
        if (board.parts[p].partClass == PartClass::Connector) m_loads.insert(p);
    std::vector<NetIndex> plugs;
    for (const PathPlace& place : path.places) {
        const int rail = circuit.railOf(place.net);
        if (!place.source || rail < 0) continue;
        plugs.push_back(place.net);
        for (const PartIndex plug : place.connectors) {
            m_fedBy[plug] = FeedStage::Input;
            m_loads.erase(plug);
        }
        // Of two plugs on one rail either brings the power.
        if (reach(rail, FeedStage::Input))
            m_ways[static_cast<std::size_t>(rail)].push_back({-1, rail, place.connectors});
    }
    findWhatLinksCutOff(board, parts, plugs);
    while (!open.empty()) {
        const int here = open.front();
        open.pop_front();
        for (const PathStep& step : path.steps) {
            const int from = circuit.railOf(path.places[static_cast<std::size_t>(step.from)].net),
                      to = circuit.railOf(path.places[static_cast<std::size_t>(step.to)].net);
            if (from != here || to < 0 || to == here) continue;
            const bool converts = step.kind == StepKind::Converter || step.kind == StepKind::Linear;
            const FeedStage own = m_stages[static_cast<std::size_t>(here)];
            const FeedStage next = converts                        ? FeedStage::Derived
                                   : step.kind == StepKind::Switch ? std::max(own, FeedStage::Main)
                                                                   : own;
            if (!reach(to, next)) continue;
            auto& way = m_ways[static_cast<std::size_t>(to)];
            way = m_ways[static_cast<std::size_t>(here)];
            way.push_back({here, to, step.parts});
            for (const PartIndex part : step.parts)
                addDrivers(board, parts, part, way.back().parts);
            for (const PartIndex part : way.back().parts) {
                const auto [known, fresh] = m_fedBy.emplace(part, next);
                if (!fresh) known->second = std::min(known->second, next);
            }
        }
    }
}

void Feed::findWhatLinksCutOff(const Board& board, const NetParts& parts,
                               const std::vector<NetIndex>& plugs) {
    std::set<NetIndex> all;
    std::set<PartIndex> links;
    for (const NetIndex plug : plugs) {
        const Stretch stretch = stretchOf(board, parts, plug);
        all.insert(stretch.nets.begin(), stretch.nets.end());
        links.insert(stretch.links.begin(), stretch.links.end());
    }
    // Of a rail of hundreds of nets through as many links each leads to little.
    constexpr std::size_t most = 100;
    if (links.size() > most) return;
    for (const PartIndex link : links) {
        std::set<NetIndex>& cut = m_cutOff[link] = all;
        for (const NetIndex plug : plugs)
            for (const NetIndex net :
                 stretchOf(board, parts, plug, {{board.parts[link].designator}, {}}).nets)
                cut.erase(net);
    }
}

} // namespace ustor
