#include "diagnosis/circuit/feed.h"

#include "board/chips.h"
#include "rail/switch_pins.h"

#include <algorithm>
#include <deque>

namespace ustor {
namespace {

bool steers(const Part& part) {
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
            if (steers(board.parts[p])) chips.push_back(p);
        if (chips.size() > most) continue;
        for (const PartIndex p : chips)
            if (std::find(to.begin(), to.end(), p) == to.end()) to.push_back(p);
    }
}

/// Which places of the way have power from a plug when one link is open.
class PathWithout {
  public:
    PathWithout(const Board& board, const PowerPath& path) : m_board(board), m_path(path) {}

    std::set<PartIndex> links() const {
        std::set<PartIndex> all;
        for (const PathStep& step : m_path.steps)
            if (const PartIndex link = onlyLink(step); link >= 0) all.insert(link);
        return all;
    }
    std::vector<bool> reached(PartIndex open) const {
        std::vector<bool> has(m_path.places.size(), false);
        std::vector<int> next;
        const auto reach = [&](int place) {
            if (has[static_cast<std::size_t>(place)]) return;
            has[static_cast<std::size_t>(place)] = true;
            next.push_back(place);
        };
        for (int i = 0; i < static_cast<int>(m_path.places.size()); ++i)
            if (m_path.places[static_cast<std::size_t>(i)].source) reach(i);
        while (!next.empty()) {
            const int here = next.back();
            next.pop_back();
            for (const PathStep& step : m_path.steps) {
                if (open >= 0 && onlyLink(step) == open) continue;
                const bool both = step.kind == StepKind::Link || step.kind == StepKind::Switch;
                if (step.from == here) reach(step.to);
                if (both && step.to == here) reach(step.from);
            }
        }
        return has;
    }

  private:
    /// The one link that all of a step's current goes through; -1 where several share it, or none is.
    PartIndex onlyLink(const PathStep& step) const {
        PartIndex only = -1;
        for (const PartIndex p : step.parts) {
            if (!isLink(m_board.parts[p])) continue;
            if (only >= 0) return -1;
            only = p;
        }
        return only;
    }

    const Board& m_board;
    const PowerPath& m_path;
};

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
    for (const PathPlace& place : path.places) {
        const int rail = circuit.railOf(place.net);
        if (!place.source || rail < 0) continue;
        for (const PartIndex plug : place.connectors) {
            m_fedBy[plug] = FeedStage::Input;
            m_loads.erase(plug);
        }
        // Of two plugs on one rail either brings the power.
        if (reach(rail, FeedStage::Input))
            m_ways[static_cast<std::size_t>(rail)].push_back({-1, rail, place.connectors});
    }
    findWhatLinksCutOff(board, parts, circuit, path);
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
    findWhatIsAside(board, circuit);
}

void Feed::findWhatIsAside(const Board& board, const BoardCircuit& circuit) {
    struct On {
        bool plug = false;
        std::set<PartIndex> chips;
    };
    std::vector<On> on(circuit.rails().size());
    std::size_t most = 0;
    for (PartIndex p = 0; p < static_cast<PartIndex>(board.parts.size()); ++p) {
        const Part& part = board.parts[p];
        if (isChip(part)) most = std::max(most, part.pads.size());
        for (const Pad& pad : part.pads)
            if (const int rail = circuit.railOf(pad.net); rail >= 0) {
                On& its = on[static_cast<std::size_t>(rail)];
                its.plug = its.plug || part.partClass == PartClass::Connector;
                if (isChip(part)) its.chips.insert(p);
            }
    }
    for (const On& its : on)
        m_aside.push_back(its.plug && its.chips.size() <= 1); // one makes it
    const auto aboutWhich = [&](const Part& part) {
        return part.partClass == PartClass::Processor ||
               (isChip(part) && 2 * part.pads.size() > most); // as many pins as the largest, nearly
    };
    for (const Part& part : board.parts) {
        if (!aboutWhich(part)) continue;
        for (const Pad& pad : part.pads)
            if (const int rail = circuit.railOf(pad.net); rail >= 0) {
                m_aside[static_cast<std::size_t>(rail)] = false;
                for (const Step& step : m_ways[static_cast<std::size_t>(rail)])
                    m_aside[static_cast<std::size_t>(step.to)] = false;
            }
    }
    std::set<NetIndex> wanted; // by any chip
    for (const Part& part : board.parts)
        if (isChip(part))
            for (const Pad& pad : part.pads)
                wanted.insert(pad.net);
    for (const auto& [link, nets] : m_cutOff) {
        const auto& pads = board.parts[link].pads;
        const bool only = !nets.empty() && std::all_of(nets.begin(), nets.end(), [&](NetIndex net) {
            const int rail = circuit.railOf(net);
            const bool own = std::any_of(pads.begin(), pads.end(),
                                         [&](const Pad& pad) { return circuit.railOf(pad.net) == rail; });
            return own || rail < 0 ? !wanted.contains(net) : isAside(rail);
        });
        if (only) m_cutsOnlyAside.insert(link);
    }
}

void Feed::findWhatLinksCutOff(const Board& board, const NetParts& parts, const BoardCircuit& circuit,
                               const PowerPath& path) {
    const PathWithout reach(board, path);
    const std::set<PartIndex> links = reach.links();
    // Of a way through hundreds of links each leads to little.
    constexpr std::size_t most = 100;
    if (links.size() > most) return;
    const std::vector<bool> all = reach.reached(-1);
    for (const PartIndex link : links) {
        const std::vector<bool> reached = reach.reached(link);
        std::set<NetIndex>& cut = m_cutOff[link];
        std::map<int, bool> rails; // that the link is on no pad of: whole, cut off or not
        for (std::size_t i = 0; i < path.places.size(); ++i) {
            const bool isCut = all[i] && !reached[i];
            const int rail = circuit.railOf(path.places[i].net);
            if (isCut) cut.insert(path.places[i].net);
            if (rail >= 0) rails[rail] = rails[rail] || isCut;
        }
        for (const auto& [rail, isCut] : rails) {
            if (!isCut) continue;
            const auto& nets = circuit.rails()[static_cast<std::size_t>(rail)].nets;
            const auto& pads = board.parts[link].pads;
            const bool parted = std::any_of(pads.begin(), pads.end(), [&, rail = rail](const Pad& pad) {
                return circuit.railOf(pad.net) == rail;
            });
            if (!parted) {
                cut.insert(nets.begin(), nets.end());
                continue;
            }
            // What hangs on the far side by other links goes with it.
            const std::set<NetIndex> behind = cut;
            for (const NetIndex net : behind)
                if (circuit.railOf(net) == rail)
                    for (const NetIndex also :
                         stretchOf(board, parts, net, {{board.parts[link].designator}, {}}).nets)
                        cut.insert(also);
        }
    }
}

} // namespace ustor
