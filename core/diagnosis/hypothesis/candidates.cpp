#include "diagnosis/hypothesis/candidates.h"

#include "diagnosis/knowledge.h"
#include "rail/switch_pins.h"

#include <algorithm>
#include <set>

namespace ustor {
namespace {

bool fails(const Part& part) {
    switch (part.partClass) {
    case PartClass::TestPoint:
    case PartClass::Mechanical:
    case PartClass::Crystal:
    case PartClass::Resistor:
        return false; // resistors fail open, and carry no rail
    default:
        return !isLink(part);
    }
}

/// How often a part fails open, against others (common practice: fuses are there for it; joints of connectors
/// and large inductors crack).
double openWeight(PartClass partClass) {
    switch (partClass) {
    case PartClass::Fuse:
        return 3.5;
    case PartClass::Connector:
        return 1;
    case PartClass::Inductor:
    case PartClass::Mosfet:
    case PartClass::SenseResistor:
        return 0.7;
    case PartClass::Ferrite:
        return 0.4;
    default:
        return 0;
    }
}

bool hadPower(const CaseState& state) {
    constexpr double meters_v = 0.7;
    return !state.sources.empty() || !state.negotiations.empty() || !state.cameBack.empty() ||
           !state.raised.empty() ||
           std::any_of(state.heat.begin(), state.heat.end(), [&](const CaseState::TakenHeat& heat) {
               return injectedVolts(state, heat).value_or(0) > meters_v;
           });
}

class Maker {
  public:
    Maker(const CaseState& state, const BoardCircuit& circuit, const Feed& feed)
        : m_state(state), m_board(state.board), m_circuit(circuit), m_feed(feed),
          m_hadPower(hadPower(state)) {
        for (const auto& [name, times] : state.cleaned)
            m_told.insert(m_board.findNet(name));
        for (const auto& seen : state.boardSeen) {
            const std::string& place = seen.body.place;
            m_told.insert({m_board.findNet(place), netOfPlace(m_board, place)});
            if (const PartIndex part = partNamed(state, place); part >= 0)
                for (const Pad& pad : m_board.parts[part].pads)
                    m_told.insert(pad.net);
        }
    }

    std::vector<Candidate> all() {
        for (PartIndex p = 0; p < static_cast<PartIndex>(m_board.parts.size()); ++p) {
            part(p);
        }
        for (const auto& rail : m_circuit.rails())
            unlisted(rail);
        add({FaultKind::Nothing}, 1);
        add({FaultKind::Other}, 1);
        share();
        return std::move(m_all);
    }

  private:
    void add(const Fault& fault, double weight) {
        if (weight > 0) m_all.push_back({fault, weight});
    }

    /// No part of the list shorts a net of the rail; where something that bridged was taken away, what it was
    /// and what may be left.
    void unlisted(const BoardCircuit::Rail& rail) {
        // A link that is lifted parts the nets of a rail: it may be on either side.
        constexpr std::size_t most = 6;
        constexpr double left = 0.2;
        std::vector<NetIndex> nets = rail.nets;
        // Where something was seen or cleaned stays among them, however small it is.
        const auto rank = [&](NetIndex net) {
            return std::pair(m_told.contains(net), m_state.netParts->on(net).size());
        };
        std::stable_sort(nets.begin(), nets.end(), [&](NetIndex a, NetIndex b) { return rank(a) > rank(b); });
        if (nets.size() > most) nets.resize(most);
        // Laminate burns most at connectors (common practice).
        constexpr double atConnector = 3;
        const auto weightOf = [&](NetIndex net) {
            const auto& parts = m_state.netParts->on(net);
            return std::any_of(
                       parts.begin(), parts.end(),
                       [&](PartIndex p) { return m_board.parts[p].partClass == PartClass::Connector; })
                       ? atConnector
                       : 1;
        };
        constexpr double withoutPower = 0.1; // and where power flows
        double sum = 0;
        for (const NetIndex net : nets)
            sum += weightOf(net) / (rail.gate ? withoutPower : 1);
        for (const NetIndex net : nets) {
            const auto cleaned = m_state.cleaned.find(m_board.nets[net].name);
            const int times = cleaned == m_state.cleaned.end() ? 0 : cleaned->second;
            for (int generation = 0; generation <= times; ++generation)
                add({FaultKind::Unlisted, -1, generation, 0, net, -1},
                    (times > 0 && generation == times ? left : 1) * weightOf(net) / sum);
        }
    }

    void part(PartIndex p) {
        const Part& part = m_board.parts[p];
        std::vector<NetIndex> rails; // a net for each rail that it is on
        bool grounded = false;
        std::set<int> seen;
        const NetIndex control =
            part.partClass == PartClass::Mosfet ? switchPinsOf(m_board, *m_state.netParts, p).control : -1;
        for (const Pad& pad : part.pads) {
            if (pad.net < 0 || pad.net == control) continue;
            grounded = grounded || m_board.nets[pad.net].ground;
            const int rail = m_circuit.railOf(pad.net);
            if (rail >= 0 && seen.insert(rail).second) rails.push_back(pad.net);
        }
        if (fails(part)) shorts(p, rails, grounded);
        // Of a capacitor with a cracked or thin layer (common practice: rare, and missed by every meter). No
        // fact without power tells it from a sound one.
        const bool capacitor =
            part.partClass == PartClass::CeramicCapacitor || part.partClass == PartClass::PolarCapacitor;
        if (capacitor && grounded && m_hadPower)
            for (const NetIndex net : rails)
                add({FaultKind::Breakdown, p, 0, 0, net, -1}, Knowledge::classWeight(part.partClass));
        // Without its lower switch a converter makes nothing either.
        const bool lowSide = part.partClass == PartClass::Mosfet && grounded &&
                             std::any_of(part.pads.begin(), part.pads.end(),
                                         [&](const Pad& pad) { return m_circuit.isSwitchNode(pad.net); });
        const bool onPath = rails.size() >= 2 || lowSide || (isLink(part) && !rails.empty()) ||
                            (part.partClass == PartClass::Connector && !rails.empty());
        constexpr double lowSideLess = 0.5; // it never has the plug's voltage to bear
        if (onPath) add({FaultKind::Open, p}, (lowSide ? lowSideLess : 1) * openWeight(part.partClass));
        const bool chip = part.partClass == PartClass::Regulator || part.partClass == PartClass::Ic;
        if (chip && !rails.empty())
            add({FaultKind::Dead, p}, part.partClass == PartClass::Regulator ? 1.5 : 0.5);
    }

    /// To ground from each rail that it is on; through it where it lies between two.
    void shorts(PartIndex p, const std::vector<NetIndex>& rails, bool grounded) {
        const Part& part = m_board.parts[p];
        struct Way {
            NetIndex a, b;
            double weight;
        };
        std::vector<Way> ways;
        const bool transistor = part.partClass == PartClass::Mosfet || part.partClass == PartClass::Diode;
        const bool control = part.partClass == PartClass::Regulator;
        if (grounded)
            for (const NetIndex net : rails)
                ways.push_back({net, -1, 1});
        if (transistor || control || part.partClass == PartClass::CeramicCapacitor ||
            part.partClass == PartClass::PolarCapacitor)
            for (std::size_t i = 0; i + 1 < rails.size(); ++i)
                for (std::size_t k = i + 1; k < rails.size(); ++k)
                    ways.push_back({rails[i], rails[k], transistor ? 1.0 : 0.3});
        if (part.partClass == PartClass::Mosfet) gate(p, ways);
        double sum = 0;
        for (const Way& way : ways)
            sum += way.weight;
        // With a connector stands what is plugged into it; with one that brings power the source, which is
        // pulled before a meter reads.
        constexpr double pluggedIn = 1, source = 0.5;
        const double with = part.partClass != PartClass::Connector ? 0
                            : m_feed.isLoad(p)                     ? pluggedIn
                                                                   : source;
        const double weight = Knowledge::classWeight(part.partClass) + with;
        const auto mounted = m_state.mounting.find(part.designator);
        const int mountings = mounted == m_state.mounting.end() ? 0 : mounted->second;
        for (const Way& way : ways) {
            add({FaultKind::Short, p, 0, 0, way.a, way.b}, weight * way.weight / sum);
            for (int mounting = 1; mounting <= mountings; ++mounting)
                m_rework.push_back({{FaultKind::Short, p, 0, mounting, way.a, way.b},
                                    KindShares::rework * way.weight / sum,
                                    true});
        }
    }

    /// A gate that is punched to the channel: its driver's net hangs on a rail then. Rarer than drain to
    /// source.
    template <class Ways> void gate(PartIndex p, Ways& ways) const {
        const SwitchPins pins = switchPinsOf(m_board, *m_state.netParts, p);
        if (m_circuit.railOf(pins.control) < 0) return;
        for (const NetIndex net : pins.power)
            ways.push_back({pins.control, m_board.nets[net].ground ? -1 : net, 0.2});
    }

    static double shareOf(FaultKind kind) {
        switch (kind) {
        case FaultKind::Short:
            return KindShares::shorts;
        case FaultKind::Breakdown:
            return KindShares::breakdown;
        case FaultKind::Open:
            return KindShares::open;
        case FaultKind::Unlisted:
            return KindShares::unlisted;
        case FaultKind::Dead:
            return KindShares::dead;
        case FaultKind::Nothing:
            return KindShares::nothing;
        case FaultKind::Other:
            return KindShares::other;
        }
        return 0;
    }

    /// Weights count within a kind; a kind that the board does not have leaves its share to the others.
    void share() {
        std::map<FaultKind, double> sums;
        for (const Candidate& c : m_all)
            sums[c.fault.kind] += c.prior;
        double all = 0;
        for (const auto& [kind, sum] : sums)
            all += shareOf(kind);
        for (Candidate& c : m_all)
            c.prior *= shareOf(c.fault.kind) / (sums[c.fault.kind] * all);
        m_all.insert(m_all.end(), m_rework.begin(), m_rework.end());
    }

    const CaseState& m_state;
    const Board& m_board;
    const BoardCircuit& m_circuit;
    const Feed& m_feed;
    bool m_hadPower; ///< some voltage above a meter's was on the board, and what came of it was told
    std::set<NetIndex> m_told; ///< where something was seen on the board or cleaned off it
    std::vector<Candidate> m_all, m_rework;
};

} // namespace

std::vector<Candidate> candidatesOf(const CaseState& state, const BoardCircuit& circuit, const Feed& feed) {
    return Maker(state, circuit, feed).all();
}

} // namespace ustor
