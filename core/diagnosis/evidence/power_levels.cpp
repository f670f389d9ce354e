#include "diagnosis/evidence/power_levels.h"

#include "diagnosis/evidence/power_items.h"
#include "diagnosis/hypothesis/presence.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <utility>

namespace ustor {
namespace {

Level levelOf(double volts, const std::optional<Volts>& nominal) {
    constexpr double absent_v = 0.1, unknown_v = 0.5, there = 0.85, away = 0.05;
    const double size = std::fabs(volts);
    if (!nominal) return size < absent_v ? Level::Absent : size < unknown_v ? Level::Low : Level::Present;
    if (size >= there * nominal->value) return Level::Present;
    return size < std::max(absent_v, away * nominal->value) ? Level::Absent : Level::Low;
}

constexpr LevelShares shorted{0.62, 0.35, 0.03}, cutOff{0.82, 0.13, 0.05}, fed{0.12, 0.05, 0.83},
    unknown{0.35, 0.2, 0.45};
/// Of derived rails before any was read, and as how many readings that counts (judgement).
constexpr LevelShares derived{0.3, 0.06, 0.64};
constexpr double derivedCounts = 1.5;

bool shortsRail(const Fault& fault, int rail, const BoardCircuit& circuit) {
    if (!fault.conductsUnderPower() || rail < 0) return false;
    return circuit.railOf(fault.a) == rail || circuit.railOf(fault.b) == rail;
}

std::string keyOf(const Fault& fault) {
    std::string key;
    for (const int value : {static_cast<int>(fault.kind), static_cast<int>(fault.part), fault.generation,
                            fault.mounting, static_cast<int>(fault.a), static_cast<int>(fault.b)})
        key.append(reinterpret_cast<const char*>(&value), sizeof value);
    return key;
}

} // namespace

PowerLevels::PowerLevels(const CaseState& state, const BoardCircuit& circuit, const Feed& feed)
    : m_state(state), m_circuit(circuit), m_feed(feed) {
    // Of each net the newest for each way that the board stood.
    std::map<std::pair<NetIndex, const PartsOff*>, const CaseState::TakenReading*> newest;
    for (const auto& r : state.readings)
        if (r.taken.reading.mode == MeterMode::Volts && r.taken.against.empty() && circuit.railOf(r.net) >= 0)
            newest[{r.net, r.then.get()}] = &r;
    const auto hasPlugVolts = [&feed](int rail) {
        return feed.stageOf(rail) == FeedStage::Input || feed.stageOf(rail) == FeedStage::Main;
    };
    // What the plug brings: the highest that a source showed or an input read.
    std::optional<Volts> plug;
    const auto brings = [&plug](double volts) {
        if (!plug || volts > plug->value) plug = Volts(volts);
    };
    for (const auto& source : state.sources) {
        // What a source in its limit shows is what the board has left of it.
        const PlugIn shows = plugInOf(source.shows);
        if (shows != PlugIn::Collapses && shows != PlugIn::Sags) brings(source.shows.volts);
    }
    for (int rail = 0; rail < static_cast<int>(circuit.rails().size()); ++rail)
        for (const NetIndex net : circuit.rails()[static_cast<std::size_t>(rail)].nets)
            if (const auto& nominal = state.board.nets[net].nominal; nominal && hasPlugVolts(rail))
                brings(nominal->value);
    for (const auto& [key, r] : newest)
        if (feed.stageOf(circuit.railOf(key.first)) == FeedStage::Input) brings(r->taken.reading.value);
    for (const auto& [key, r] : newest) {
        const auto& named = state.board.nets[r->net].nominal;
        const int rail = circuit.railOf(r->net);
        const auto nominal = !named && hasPlugVolts(rail) ? plug : named;
        m_taken.push_back({r->net, rail, r->fact, levelOf(r->taken.reading.value, nominal), r->then,
                           say("{place} reads {reading} with the power on",
                               {{"place", r->taken.place}, {"reading", textOf(r->taken.reading)}})});
    }
    std::sort(m_taken.begin(), m_taken.end(), [](const Taken& a, const Taken& b) { return a.fact < b.fact; });
    std::map<int, int> newestOf; // by rail
    for (int i = 0; i < static_cast<int>(m_taken.size()); ++i) {
        Taken& taken = m_taken[static_cast<std::size_t>(i)];
        const auto [known, fresh] = newestOf.try_emplace(taken.rail, i);
        if (!fresh) taken.before = std::exchange(known->second, i);
    }
}

PowerLevels::Does PowerLevels::done(const Fault& fault, NetIndex net, const PartsOff& then) const {
    if (fault.kind == FaultKind::Other) return Does::Anything;
    if (!isOn(m_state.board, then, fault)) return Does::Nothing;
    const int rail = m_circuit.railOf(net);
    if (fault.kind == FaultKind::Open && m_feed.knowsLink(fault.part)) {
        if (m_feed.cutsOff(fault.part, net)) return Does::CutsOff;
        // A converter that works on into an open inductor.
        const auto& pads = m_state.board.parts[fault.part].pads;
        const bool before =
            m_circuit.isSwitchNode(net) &&
            std::any_of(pads.begin(), pads.end(), [net](const Pad& pad) { return pad.net == net; });
        return before ? Does::Anything : Does::Nothing;
    }
    if (shortsRail(fault, rail, m_circuit)) return Does::Shorts;
    for (const Feed::Step& step : m_feed.wayTo(rail)) {
        const bool inStep = std::find(step.parts.begin(), step.parts.end(), fault.part) != step.parts.end();
        const bool stops = (fault.kind == FaultKind::Open || fault.kind == FaultKind::Dead) && inStep;
        if (stops || shortsRail(fault, step.from, m_circuit)) return Does::CutsOff;
    }
    return Does::Nothing;
}

const std::vector<PowerLevels::Does>& PowerLevels::doneToEach(const Fault& fault) const {
    const auto [known, fresh] = m_done.try_emplace(keyOf(fault));
    if (fresh)
        for (const Taken& taken : m_taken)
            known->second.push_back(done(fault, taken.net, *taken.then));
    return known->second;
}

LevelShares PowerLevels::waiting(std::size_t before, std::span<const Fault> faults) const {
    std::vector<const std::vector<Does>*> does;
    for (const Fault& fault : faults)
        does.push_back(&doneToEach(fault));
    LevelShares counts{derivedCounts * derived.absent, derivedCounts * derived.low,
                       derivedCounts * derived.present};
    double all = derivedCounts;
    for (std::size_t i = 0; i < before; ++i) {
        if (m_feed.stageOf(m_taken[i].rail) != FeedStage::Derived) continue;
        // Two nets of a rail are one rail.
        if (const int same = m_taken[i].before;
            same >= 0 && m_taken[static_cast<std::size_t>(same)].then == m_taken[i].then)
            continue;
        if (std::any_of(does.begin(), does.end(),
                        [i](const std::vector<Does>* each) { return (*each)[i] != Does::Nothing; }))
            continue;
        (m_taken[i].level == Level::Absent ? counts.absent
         : m_taken[i].level == Level::Low  ? counts.low
                                           : counts.present) += 1;
        ++all;
    }
    return {counts.absent / all, counts.low / all, counts.present / all};
}

LevelShares PowerLevels::sharesFor(int rail, Does worst, std::size_t before,
                                   std::span<const Fault> faults) const {
    switch (worst) {
    case Does::Anything:
        return unknown;
    case Does::Shorts:
        return shorted;
    case Does::CutsOff:
        return cutOff;
    case Does::Nothing:
        break;
    }
    if (m_feed.stageOf(rail) == FeedStage::Unfed) return unknown;
    return m_feed.stageOf(rail) == FeedStage::Derived ? waiting(before, faults) : fed;
}

LevelShares PowerLevels::next(NetIndex net, std::span<const Fault> faults, const PartsOff& then) const {
    Does worst = Does::Nothing;
    for (const Fault& fault : faults)
        worst = std::max(worst, done(fault, net, then));
    return sharesFor(m_circuit.railOf(net), worst, m_taken.size(), faults);
}

double PowerLevels::logOf(std::size_t i, std::span<const Fault> faults) const {
    const auto worstOf = [&](std::size_t reading) {
        Does worst = Does::Nothing;
        for (const Fault& fault : faults)
            worst = std::max(worst, doneToEach(fault)[reading]);
        return worst;
    };
    const Does worst = worstOf(i);
    const double share = sharesFor(m_taken[i].rail, worst, i, faults).of(m_taken[i].level);
    const int before = m_taken[i].before;
    if (before < 0) return std::log(share);
    const Taken& other = m_taken[static_cast<std::size_t>(before)];
    const bool apart = other.net != m_taken[i].net && worstOf(static_cast<std::size_t>(before)) != worst;
    if (apart || !standAlike(m_state.board, *other.then, *m_taken[i].then, faults)) return std::log(share);
    // Nothing that is wrong was touched since: the rail stands as it stood, and that is no second witness.
    constexpr double standsAgain = 0.9;
    return std::log((other.level == m_taken[i].level ? standsAgain : 0) + (1 - standsAgain) * share);
}

std::vector<EvidenceItem> PowerLevels::evidence(const std::shared_ptr<const PowerLevels>& levels) {
    std::vector<EvidenceItem> items;
    for (std::size_t i = 0; i < levels->m_taken.size(); ++i)
        items.push_back({levels->m_taken[i].fact, levels->m_taken[i].what,
                         [levels, i](std::span<const Fault> faults) { return levels->logOf(i, faults); }});
    return items;
}

} // namespace ustor
