#include "rail/power_path.h"

#include "rail/switch_pins.h"

#include <algorithm>
#include <map>
#include <set>
#include <tuple>

namespace ustor {
namespace {

class PathBuilder {
  public:
    PathBuilder(const Board& board, const LinkState& state) : m_board(board), m_state(state) {}

    PowerPath build() {
        const auto converters = convertersOf(m_board);
        for (const Converter& c : converters)
            m_inside.insert(c.switchNode);
        for (const NetIndex net : powerNets(m_board))
            place(net);
        addConverters(converters);
        for (const LinearRegulator& r : linearRegulatorsOf(m_board, converters))
            step(r.input, r.output, StepKind::Linear, {r.part});
        // Links first: they bring nets onto the way that a switch then leads on from.
        addPassing(StepKind::Link);
        placeMiddles();
        addPassing(StepKind::Switch);
        addParts();
        findSources();
        direct();
        dropLoose();
        arrange();
        return std::move(m_path);
    }

  private:
    int place(NetIndex net) {
        if (net < 0 || m_board.nets[net].ground || m_inside.contains(net)) return -1;
        const auto [at, fresh] = m_placeOf.emplace(net, static_cast<int>(m_path.places.size()));
        if (fresh) {
            m_path.places.emplace_back();
            m_path.places.back().net = net;
        }
        return at->second;
    }

    void step(NetIndex from, NetIndex to, StepKind kind, std::vector<PartIndex> parts) {
        const int a = place(from), b = place(to);
        if (a < 0 || b < 0 || a == b) return;
        const bool cut = std::any_of(parts.begin(), parts.end(), [&](PartIndex p) {
            return m_state.lifted.contains(m_board.parts[p].designator);
        });
        for (PathStep& known : m_path.steps) // phases and switches side by side are one step
            if (known.kind == kind &&
                ((known.from == a && known.to == b) || (known.from == b && known.to == a))) {
                for (const PartIndex p : parts)
                    if (std::find(known.parts.begin(), known.parts.end(), p) == known.parts.end())
                        known.parts.push_back(p);
                known.cut = known.cut && cut;
                return;
            }
        m_path.steps.push_back({a, b, kind, std::move(parts), cut});
    }

    void addConverters(const std::vector<Converter>& converters) {
        for (const Converter& c : converters) {
            std::vector<PartIndex> parts = c.highSide;
            for (const PartIndex p : c.lowSide)
                if (std::find(parts.begin(), parts.end(), p) == parts.end()) parts.push_back(p);
            parts.push_back(c.inductor);
            if (c.controller >= 0 && std::find(parts.begin(), parts.end(), c.controller) == parts.end())
                parts.push_back(c.controller);
            m_used.insert(parts.begin(), parts.end());
            step(c.input, c.output, StepKind::Converter, std::move(parts));
        }
    }

    /// Two switches back to back have a net between them that nothing else tells to be on the way.
    void placeMiddles() {
        const NetParts parts(m_board);
        std::map<NetIndex, std::set<NetIndex>> sides; // by the net between: where its switches lead
        for (PartIndex p = 0; p < static_cast<PartIndex>(m_board.parts.size()); ++p) {
            if (m_board.parts[p].partClass != PartClass::Mosfet || m_used.contains(p)) continue;
            const SwitchPins pins = switchPinsOf(m_board, parts, p);
            if (pins.power.size() != 2) continue;
            for (const int k : {0, 1})
                if (!m_placeOf.contains(pins.power[k]) && m_placeOf.contains(pins.power[1 - k]))
                    sides[pins.power[k]].insert(pins.power[1 - k]);
        }
        for (const auto& [net, ends] : sides)
            if (ends.size() > 1) place(net);
    }

    void addPassing(StepKind kind) {
        for (PartIndex p = 0; p < static_cast<PartIndex>(m_board.parts.size()); ++p) {
            const Part& part = m_board.parts[p];
            const bool link = kind == StepKind::Link;
            const bool passes = part.partClass == PartClass::Mosfet || part.partClass == PartClass::Switch;
            if (m_used.contains(p) || !(link ? isLink(part) : passes)) continue;
            std::vector<NetIndex> sides;
            for (const Pad& pad : part.pads) {
                const bool control = !link && pad.pin == "G";
                const bool carries = pad.net >= 0 && !m_board.nets[pad.net].ground && !control &&
                                     (link || m_placeOf.contains(pad.net));
                if (carries && std::find(sides.begin(), sides.end(), pad.net) == sides.end())
                    sides.push_back(pad.net);
            }
            if (sides.size() < 2) continue;
            // A ferrite in a signal leads nowhere that a power net lies.
            if (!m_placeOf.contains(sides[0]) && !m_placeOf.contains(sides[1])) continue;
            step(sides[0], sides[1], kind, {p});
        }
    }

    void addParts() {
        for (PartIndex p = 0; p < static_cast<PartIndex>(m_board.parts.size()); ++p) {
            const Part& part = m_board.parts[p];
            std::set<int> here;
            for (const Pad& pad : part.pads)
                if (const auto at = m_placeOf.find(pad.net); at != m_placeOf.end()) here.insert(at->second);
            for (const int i : here) {
                if (part.partClass == PartClass::Connector) m_path.places[i].connectors.push_back(p);
                if (couldShort(m_board, part, {m_path.places[i].net})) m_path.places[i].suspects.push_back(p);
            }
        }
    }

    /// A clamp, here or behind the fuse; a fuse; a plug with nothing but this and ground. One that carries
    /// what the board makes as well gives it away (common practice).
    int signsOfInput(int place, const std::set<int>& made) const {
        int signs = 1;
        std::vector<int> guarded{place};
        for (const PathStep& s : m_path.steps) {
            if ((s.kind == StepKind::Converter || s.kind == StepKind::Linear) && s.from == place) signs = 0;
            if (s.kind != StepKind::Link || (s.from != place && s.to != place)) continue;
            for (const PartIndex p : s.parts)
                if (m_board.parts[p].partClass == PartClass::Fuse) signs += 2;
            guarded.push_back(s.from == place ? s.to : s.from);
        }
        for (const int each : guarded)
            for (const PartIndex p : m_path.places[each].suspects)
                if (m_board.parts[p].partClass == PartClass::ClampDiode) ++signs;
        for (const PartIndex p : m_path.places[place].connectors) {
            bool alone = true;
            for (const Pad& pad : m_board.parts[p].pads) {
                if (pad.net < 0 || pad.net == m_path.places[place].net || m_board.nets[pad.net].ground)
                    continue;
                alone = false;
                const auto at = m_placeOf.find(pad.net);
                constexpr int givesAway = 3;
                if (at != m_placeOf.end() && made.contains(at->second)) return signs - givesAway;
            }
            signs += alone;
        }
        return signs;
    }

    /// Of its connectors, that carry this net.
    std::ptrdiff_t pinsAt(int place) const {
        std::ptrdiff_t pins = 0;
        for (const PartIndex p : m_path.places[place].connectors)
            pins += std::count_if(m_board.parts[p].pads.begin(), m_board.parts[p].pads.end(),
                                  [&](const Pad& pad) { return pad.net == m_path.places[place].net; });
        return pins;
    }

    /// Power comes in where a connector sits and no converter ends; among those, what the names call an
    /// input.
    void findSources() {
        std::set<int> fed;
        for (const PathStep& s : m_path.steps)
            if (s.kind == StepKind::Converter || s.kind == StepKind::Linear) fed.insert(s.to);
        const auto reach = [&](int start) {
            std::set<int> seen{start};
            std::vector<int> open{start};
            while (!open.empty()) {
                const int here = open.back();
                open.pop_back();
                for (const PathStep& s : m_path.steps) {
                    const bool both = s.kind == StepKind::Link || s.kind == StepKind::Switch;
                    const int next = s.from == here ? s.to : both && s.to == here ? s.from : -1;
                    if (next >= 0 && seen.insert(next).second) open.push_back(next);
                }
            }
            return seen;
        };
        // The one that leads to most goes first; another connector counts where it leads to something new.
        std::vector<std::pair<std::size_t, int>> candidates;
        for (int i = 0; i < static_cast<int>(m_path.places.size()); ++i)
            if (!m_path.places[i].connectors.empty() && !fed.contains(i))
                candidates.emplace_back(reach(i).size(), i);
        std::set<int> made;
        for (const int place : fed)
            made.merge(reach(place));
        std::map<int, int> signs;
        for (const auto& [count, i] : candidates)
            signs[i] = signsOfInput(i, made);
        std::stable_sort(candidates.begin(), candidates.end(), [&](const auto& a, const auto& b) {
            const auto volts = [&](int i) {
                const auto& nominal = m_board.nets[m_path.places[i].net].nominal;
                return nominal ? nominal->value : 0.0;
            };
            // Switches and links lead both ways, so that a battery's or a display's plug leads as far as the
            // jack: what guards an input, and that nothing is converted right there, tells the jack. A fan's
            // plug behind a fuse of its own has fewer pins than the plug that feeds it.
            const auto key = [&](const auto& c) {
                return std::tuple(c.first, signs[c.second], volts(c.second), pinsAt(c.second));
            };
            return key(a) > key(b);
        });
        std::set<int> covered;
        for (const auto& [count, i] : candidates) {
            // What leads nowhere, beside a plug that leads somewhere, takes power.
            if (covered.contains(i) || (count == 1 && signs[i] <= 1 && !covered.empty())) continue;
            m_path.places[i].source = true;
            covered.merge(reach(i));
        }
        // No connector known: what nothing feeds.
        if (candidates.empty())
            for (int i = 0; i < static_cast<int>(m_path.places.size()); ++i)
                m_path.places[i].source = !fed.contains(i) && reach(i).size() > 1;
    }

    /// Links and switches have no direction of their own: they lead away from the source.
    void direct() {
        std::vector<int> distance(m_path.places.size(), -1);
        std::vector<int> open;
        for (int i = 0; i < static_cast<int>(m_path.places.size()); ++i)
            if (m_path.places[i].source) {
                distance[i] = 0;
                open.push_back(i);
            }
        for (std::size_t k = 0; k < open.size(); ++k) {
            const int here = open[k];
            for (PathStep& s : m_path.steps) {
                const bool both = s.kind == StepKind::Link || s.kind == StepKind::Switch;
                if (both && s.to == here && distance[s.from] < 0) std::swap(s.from, s.to);
                if (s.from != here || distance[s.to] >= 0) continue;
                distance[s.to] = distance[here] + 1;
                open.push_back(s.to);
            }
        }
        for (int i = 0; i < static_cast<int>(m_path.places.size()); ++i)
            m_path.places[i].column = std::max(0, distance[i]);
    }

    /// Places that nothing leads to or from and nothing hangs on say nothing.
    void dropLoose() {
        std::vector<int> moved(m_path.places.size(), -1);
        std::vector<PathPlace> kept;
        for (int i = 0; i < static_cast<int>(m_path.places.size()); ++i) {
            const bool joined = std::any_of(m_path.steps.begin(), m_path.steps.end(),
                                            [&](const PathStep& s) { return s.from == i || s.to == i; });
            if (!joined && m_path.places[i].suspects.empty()) continue;
            moved[i] = static_cast<int>(kept.size());
            kept.push_back(std::move(m_path.places[i]));
        }
        m_path.places = std::move(kept);
        for (PathStep& s : m_path.steps) {
            s.from = moved[s.from];
            s.to = moved[s.to];
        }
    }

    /// Rows: each place in its feeder's row where that is free, else the next free one below.
    void arrange() {
        std::set<std::pair<int, int>> taken;
        std::vector<bool> done(m_path.places.size(), false);
        int nextRow = 0;
        const auto lay = [&](auto&& self, int i, int wanted) -> void {
            if (done[i]) return;
            done[i] = true;
            PathPlace& here = m_path.places[i];
            int row = wanted;
            while (taken.contains({here.column, row}))
                ++row;
            here.row = row;
            taken.insert({here.column, row});
            nextRow = std::max(nextRow, row + 1);
            int below = row;
            for (const PathStep& s : m_path.steps)
                if (s.from == i && !done[s.to]) {
                    self(self, s.to, below);
                    below = std::max(below, m_path.places[s.to].row) + 1;
                }
        };
        for (int i = 0; i < static_cast<int>(m_path.places.size()); ++i)
            if (m_path.places[i].source) lay(lay, i, nextRow);
        for (int i = 0; i < static_cast<int>(m_path.places.size()); ++i)
            lay(lay, i, nextRow);
    }

    const Board& m_board;
    const LinkState& m_state;
    PowerPath m_path;
    std::map<NetIndex, int> m_placeOf;
    std::set<NetIndex> m_inside; ///< switch nodes
    std::set<PartIndex> m_used;  ///< parts of converters
};

} // namespace

std::string_view wordOf(StepKind kind) {
    switch (kind) {
    case StepKind::Link:
        return "link";
    case StepKind::Switch:
        return "switch";
    case StepKind::Converter:
        return "converter";
    case StepKind::Linear:
        return "linear regulator";
    }
    return "link";
}

Message labelOf(StepKind kind) {
    switch (kind) {
    case StepKind::Link:
        return say("link");
    case StepKind::Switch:
        return say("switch");
    case StepKind::Converter:
        return say("converter");
    case StepKind::Linear:
        return say("linear regulator");
    }
    return {};
}

int PowerPath::placeOf(NetIndex net) const {
    for (int i = 0; i < static_cast<int>(places.size()); ++i)
        if (places[i].net == net) return i;
    return -1;
}

PowerPath powerPath(const Board& board, const LinkState& state) {
    return PathBuilder(board, state).build();
}

} // namespace ustor
