#include "board/sketch/beep_nets.h"

#include "board/nominal_voltage.h"

#include <algorithm>
#include <cmath>
#include <deque>
#include <numeric>

namespace ustor {

BeepNets::BeepNets(const Sketch& sketch) : m_sketch(sketch) {
    for (std::size_t i = 0; i < sketch.stamps.size(); ++i) {
        const Stamp& stamp = sketch.stamps[i];
        const auto pads = padsOf(stamp);
        const bool capacitor =
            stamp.partClass == PartClass::CeramicCapacitor || stamp.partClass == PartClass::PolarCapacitor;
        for (const Pad& pad : pads) {
            const std::string place = stamp.designator + "." + pad.pin;
            m_byPlace[place] = m_nodes.size();
            m_nodes.push_back({place, i, pad.at, pads.size() == 2, capacitor && pads.size() == 2});
        }
    }
    m_root.resize(m_nodes.size());
    std::iota(m_root.begin(), m_root.end(), std::size_t{0});
    join();
    findClashes();
    for (const auto& [place, name] : sketch.names)
        if (const auto node = find(place); node && isGroundName(name)) m_ground = root(*node);
}

std::optional<std::size_t> BeepNets::find(const std::string& place) const {
    const auto found = m_byPlace.find(place);
    return found == m_byPlace.end() ? std::nullopt : std::optional(found->second);
}

std::size_t BeepNets::root(std::size_t node) const {
    while (m_root[node] != node)
        node = m_root[node];
    return node;
}

void BeepNets::join() {
    const auto unite = [&](const std::string& a, const std::string& b) {
        const auto x = find(a), y = find(b);
        if (!x || !y) return;
        const std::size_t first = std::min(root(*x), root(*y)), second = std::max(root(*x), root(*y));
        m_root[second] = first;
    };
    for (const Beep& beep : m_sketch.beeps)
        if (beep.connected) unite(beep.a, beep.b);
    // Places that were given one name are one net.
    std::map<std::string, std::string> first;
    for (const auto& [place, name] : m_sketch.names)
        if (const auto [known, fresh] = first.emplace(name, place); !fresh) unite(known->second, place);
}

void BeepNets::findClashes() {
    for (std::size_t i = 0; i < m_sketch.beeps.size(); ++i) {
        const Beep& no = m_sketch.beeps[i];
        const auto a = find(no.a), b = find(no.b);
        if (no.connected || !a || !b) continue;
        if (root(*a) != root(*b)) {
            m_denied.emplace_back(root(*a), root(*b));
            continue;
        }
        // The shortest chain of answers from one to the other.
        std::map<std::size_t, std::pair<std::size_t, std::size_t>> cameBy; // node: beep, node before
        std::deque<std::size_t> open{*a};
        cameBy[*a] = {0, *a};
        while (!open.empty() && !cameBy.contains(*b)) {
            const std::size_t here = open.front();
            open.pop_front();
            for (std::size_t k = 0; k < m_sketch.beeps.size(); ++k) {
                const Beep& yes = m_sketch.beeps[k];
                const auto x = find(yes.a), y = find(yes.b);
                if (!yes.connected || !x || !y || (*x != here && *y != here)) continue;
                const std::size_t next = *x == here ? *y : *x;
                if (cameBy.emplace(next, std::pair(k, here)).second) open.push_back(next);
            }
        }
        BeepClash clash{i, {}};
        if (cameBy.contains(*b))
            for (std::size_t at = *b; at != *a; at = cameBy[at].second)
                clash.joining.push_back(cameBy[at].first);
        std::reverse(clash.joining.begin(), clash.joining.end());
        m_clashes.push_back(std::move(clash));
    }
}

bool BeepNets::joined(const std::string& a, const std::string& b) const {
    const auto x = find(a), y = find(b);
    return x && y && root(*x) == root(*y);
}

std::string BeepNets::nameOf(const std::string& place) const {
    const auto node = find(place);
    if (!node) return place;
    for (const auto& [named, name] : m_sketch.names)
        if (const auto other = find(named); other && root(*other) == root(*node)) return name;
    return m_nodes[root(*node)].place;
}

/// From the two pads alone; what is known of their nets comes on top in `proposals`.
double BeepNets::chanceOf(std::size_t a, std::size_t b) const {
    const Node &x = m_nodes[a], &y = m_nodes[b];
    if (x.stamp == y.stamp) return 0.02;
    constexpr double near_mm = 8;
    const double nearness = std::exp(-distance_mm(x.at, y.at) / near_mm);
    const double alike = x.capacitor && y.capacitor ? 0.6 : 0.35;
    return 0.05 + alike * nearness;
}

std::vector<BeepProposal> BeepNets::proposals(std::size_t most) const {
    std::map<std::size_t, std::vector<std::size_t>> nets;
    for (std::size_t i = 0; i < m_nodes.size(); ++i)
        nets[root(i)].push_back(i);
    const auto denied = [&](std::size_t a, std::size_t b) {
        return std::any_of(m_denied.begin(), m_denied.end(), [&](const auto& pair) {
            return (pair.first == a && pair.second == b) || (pair.first == b && pair.second == a);
        });
    };
    // People lay parts out alike: which pin of the capacitors so far is the one on ground?
    std::map<std::string, std::pair<int, int>> grounded; // by pin: yes, all that were answered
    for (const Node& node : m_nodes)
        if (m_ground && node.capacitor) {
            const std::size_t at = m_byPlace.at(node.place);
            const bool yes = root(at) == *m_ground, no = denied(root(at), *m_ground);
            auto& [hits, known] = grounded[node.place.substr(node.place.find('.'))];
            hits += yes;
            known += yes || no;
        }
    // A capacitor has one end on ground: once one end is known, so is the other.
    const auto groundChance = [&](const std::vector<std::size_t>& net) {
        double chance = 0.1;
        for (const std::size_t node : net) {
            if (!m_nodes[node].capacitor) continue;
            const auto& [hits, known] = grounded[m_nodes[node].place.substr(m_nodes[node].place.find('.'))];
            chance = std::max(chance, (hits + 1.0) / (known + 2.0));
            for (const std::size_t other : {node - 1, node + 1})
                if (other < m_nodes.size() && m_nodes[other].stamp == m_nodes[node].stamp) {
                    if (root(other) == *m_ground) return 0.01;
                    if (denied(root(other), *m_ground)) return 0.95;
                }
        }
        return chance;
    };
    std::vector<BeepProposal> all;
    for (auto x = nets.begin(); x != nets.end(); ++x)
        for (auto y = std::next(x); y != nets.end(); ++y) {
            if (denied(x->first, y->first)) continue;
            const bool ground = m_ground && (x->first == *m_ground || y->first == *m_ground);
            const auto& other = m_ground && x->first == *m_ground ? y->second : x->second;
            double none = 1; // that no pair of pads is joined
            BeepProposal best;
            double nearest = 1e300;
            for (const std::size_t a : x->second)
                for (const std::size_t b : y->second) {
                    none = std::min(none, 1 - chanceOf(a, b));
                    if (const double away = distance_mm(m_nodes[a].at, m_nodes[b].at); away < nearest) {
                        nearest = away;
                        best.a = m_nodes[a].place;
                        best.b = m_nodes[b].place;
                    }
                }
            // Two nets that are both likely to be ground are asked of ground itself.
            const auto isGround = [&](std::size_t net, const std::vector<std::size_t>& nodes) {
                return !m_ground || denied(net, *m_ground) ? 0.0 : groundChance(nodes);
            };
            best.chance = ground ? groundChance(other)
                                 : (1 - none) * (1 - isGround(x->first, x->second)) *
                                       (1 - isGround(y->first, y->second));
            const double p = best.chance, doubt = -p * std::log2(p) - (1 - p) * std::log2(1 - p);
            // Bits first; of two alike, the one that joins or parts more pads.
            best.settles =
                doubt * (1 + 0.05 * std::log2(static_cast<double>(x->second.size() * y->second.size())));
            all.push_back(std::move(best));
        }
    std::stable_sort(all.begin(), all.end(),
                     [](const BeepProposal& a, const BeepProposal& b) { return a.settles > b.settles; });
    if (all.size() > most) all.resize(most);
    return all;
}

} // namespace ustor
