#include "diagnosis/reading_judge.h"

#include <algorithm>
#include <set>

namespace ustor {
namespace {

/// One digit of a usual meter in its lowest range, where the reading does not say.
double resolutionOf(const Reading& reading) {
    if (reading.resolution > 0) return reading.resolution;
    constexpr double diode_v = 0.001, ohms = 0.1;
    return unitOf(reading.mode) == "V" ? diode_v : ohms;
}

/// How a reading on a warm board would stand on a cold one: junctions lose some two millivolts a kelvin and
/// leak more (common practice: 0.53 V for 0.60 V just after hot air).
Reading cooled(const Reading& reading) {
    Reading cold = reading;
    constexpr double diodeDrift = 1.2, leakDrift = 1.3;
    cold.value *= reading.mode == MeterMode::Diode ? diodeDrift : leakDrift;
    return cold;
}

Reading asReading(const Expected& expected, MeterMode mode) {
    return {mode, expected.overRange ? ReadingState::OverRange : ReadingState::Value, expected.typical, 0};
}

std::string textOfExpected(const Expected& expected, MeterMode mode) {
    return textOf(asReading(expected, mode));
}

int severity(RailState state) {
    switch (state) {
    case RailState::Short:
        return 2;
    case RailState::Partial:
        return 1;
    default:
        return 0;
    }
}

} // namespace

std::optional<RailRuling> judgeAgainst(const Reading& reading, const Expected& expected, RulingBy by,
                                       const Message& whose) {
    const auto ruling = [&](RailState state, const Message& what) {
        return RailRuling{state, joined({whose, what}, ": "), by};
    };
    const bool open = reading.state == ReadingState::OverRange;
    if (expected.overRange)
        return open ? std::optional(ruling(RailState::Healthy, say("open here as well"))) : std::nullopt;
    if (open) return ruling(RailState::Healthy, say("no short; but something is open that should conduct"));
    const double digit = resolutionOf(reading);
    constexpr double digitsNeeded = 3;
    if (expected.typical < digitsNeeded * digit) return std::nullopt;
    // The last digit may be off by one; the doubt goes to the healthy side.
    const double ratio = (reading.value + digit) / expected.typical;
    const bool diode = reading.mode == MeterMode::Diode;
    constexpr double alikeDiode = 0.85, alikeOhms = 0.7, shorted = 0.3, hardOhms = 5;
    if (ratio >= (diode ? alikeDiode : alikeOhms)) return ruling(RailState::Healthy, say("this reads alike"));
    if (ratio < shorted && (diode || reading.value < hardOhms))
        return ruling(RailState::Short, say("this is far too low"));
    return ruling(RailState::Partial, say("this is too low"));
}

ReadingJudge::ReadingJudge(CaseState& state, const KnownGoodSet& knownGood)
    : m_state(state), m_knownGood(knownGood, state.board), m_siblings(state.board, *state.netParts) {}

void ReadingJudge::judgeNew() {
    std::set<NetIndex> changed;
    const std::size_t first = m_judged;
    for (; m_judged < m_state.readings.size(); ++m_judged) {
        const auto& taken = m_state.readings[m_judged];
        if (!counts(taken)) continue;
        m_onNet[taken.net].push_back(m_judged);
        if (taken.taken.reversed) continue; // nothing that a sibling is compared with
        m_newest[{taken.net, taken.taken.reading.mode}] = m_judged;
        changed.insert(taken.net);
    }
    std::set<std::size_t> again;
    for (std::size_t i = first; i < m_judged; ++i)
        if (counts(m_state.readings[i])) again.insert(i);
    for (const NetIndex net : changed)
        for (const NetIndex sibling : siblingsOf(net))
            if (const auto found = m_onNet.find(sibling); found != m_onNet.end())
                again.insert(found->second.begin(), found->second.end());
    for (const std::size_t i : again)
        judge(m_state.readings[i]);
}

bool ReadingJudge::counts(const CaseState::TakenReading& taken) const {
    return taken.net >= 0 && taken.taken.against.empty() && !m_state.board.nets[taken.net].ground;
}

void ReadingJudge::judge(CaseState::TakenReading& taken) {
    taken.ruling = rule(taken, taken.taken.reading);
    if (!taken.warm || taken.taken.reading.state == ReadingState::OverRange) return;
    const RailRuling cold = rule(taken, cooled(taken.taken.reading));
    if (severity(cold.state) < severity(taken.ruling.state))
        taken.ruling = {RailState::Unknown,
                        say("the board was warm and readings drift: wait, then measure again")};
}

RailRuling ReadingJudge::rule(const CaseState::TakenReading& taken, const Reading& reading) {
    if (reading.mode == MeterMode::Volts) return judgeReading(reading, RailKind::Main);
    if (const auto good = m_knownGood.at(taken.taken.place, taken.net, reading.mode, taken.taken.reversed))
        if (const auto ruling =
                judgeAgainst(reading, *good, RulingBy::KnownGood,
                             say("a good board reads {reading} at {place}",
                                 {{"reading", textOfExpected(*good, reading.mode)}, {"place", good->place}})))
            return *ruling;
    if (taken.taken.reversed)
        return {RailState::Unknown, say("leads reversed: only a good board tells what should stand here")};
    // Siblings settle what a rule cannot: a rail that is low by nature, or one that only looks odd.
    if (const auto ruling = bySibling(taken, reading)) return *ruling;
    return judgeReading(reading, kindOf(taken.net));
}

RailKind ReadingJudge::kindOf(NetIndex net) {
    const auto [place, fresh] = m_kinds.emplace(net, RailKind::Main);
    if (fresh) place->second = railKindOf(m_state.board, *m_state.netParts, net);
    return place->second;
}

const std::vector<NetIndex>& ReadingJudge::siblingsOf(NetIndex net) {
    const auto [place, fresh] = m_siblingsOf.emplace(net, std::vector<NetIndex>{});
    if (fresh) place->second = m_siblings.of(net);
    return place->second;
}

std::optional<RailRuling> ReadingJudge::bySibling(const CaseState::TakenReading& taken,
                                                  const Reading& reading) {
    std::vector<Reading> readings;
    std::string names;
    for (const NetIndex net : siblingsOf(taken.net)) {
        const auto newest = m_newest.find({net, reading.mode});
        if (newest == m_newest.end()) continue;
        readings.push_back(m_state.readings[newest->second].taken.reading);
        names += (names.empty() ? "" : ", ") + m_state.board.nets[net].name;
    }
    const auto expected = typicalOf(readings);
    if (!expected) return std::nullopt;
    // A sibling that is shorted itself says nothing, and no sibling makes a hard short healthy.
    const RailRuling own = judgeReading(reading, kindOf(taken.net));
    const RailState theirs = judgeReading(asReading(*expected, reading.mode), kindOf(taken.net)).state;
    if (theirs == RailState::Short) return std::nullopt;
    if (own.state == RailState::Short && kindOf(taken.net) == RailKind::Main) return std::nullopt;
    return judgeAgainst(reading, *expected, RulingBy::Sibling,
                        say("{rails} reads {reading}",
                            {{"rails", names}, {"reading", textOfExpected(*expected, reading.mode)}}));
}

} // namespace ustor
