#include "diagnosis/evidence/reading_groups.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace ustor {
namespace {

using Taken = CaseState::TakenReading;

/// Of one rail, by the place in the case's list of readings: each group in order of its facts.
struct OnRail {
    using Group = std::vector<std::size_t>;
    std::vector<Group> first, newest, withPartsOff;
    ReadingsLeftOut left;
};

bool saysTheSame(const Taken& a, const Taken& b) {
    return a.net == b.net && a.against == b.against && a.taken.reading.mode == b.taken.reading.mode &&
           a.taken.reversed == b.taken.reversed && (a.warm || a.bySupply) == (b.warm || b.bySupply) &&
           a.then == b.then;
}

/// Adds the reading to its group; makes one where there is room. False: no room.
bool addTo(std::vector<OnRail::Group>& groups, const std::vector<Taken>& readings, std::size_t i,
           std::size_t room) {
    for (OnRail::Group& group : groups)
        if (saysTheSame(readings[group.front()], readings[i])) return group.push_back(i), true;
    if (groups.size() >= room) return false;
    groups.push_back({i});
    return true;
}

bool counts(const BoardCircuit& circuit, const Taken& r) {
    if (r.taken.reading.mode == MeterMode::Volts || circuit.railOf(r.net) < 0) return false;
    return r.taken.against.empty() || r.against >= 0;
}

std::map<int, OnRail> sortByRail(const CaseState& state, const BoardCircuit& circuit) {
    std::map<int, OnRail> rails;
    for (std::size_t i = 0; i < state.readings.size(); ++i)
        if (counts(circuit, state.readings[i]))
            addTo(rails[circuit.railOf(state.readings[i].net)].first, state.readings, i,
                  ReadingsOfARail::first);
    for (std::size_t i = state.readings.size(); i-- > 0;) {
        if (!counts(circuit, state.readings[i])) continue;
        const int rail = circuit.railOf(state.readings[i].net);
        OnRail& on = rails[rail];
        const bool among = std::any_of(on.first.begin(), on.first.end(), [&](const OnRail::Group& group) {
            return saysTheSame(state.readings[group.front()], state.readings[i]);
        });
        const bool whole = state.readings[i].then->off.empty();
        if (among || addTo(whole ? on.newest : on.withPartsOff, state.readings, i,
                           whole ? ReadingsOfARail::newest : ReadingsOfARail::withPartsOff))
            continue;
        on.left.rail = rail;
        ++on.left.readings;
        on.left.fact = std::max(on.left.fact, state.readings[i].fact);
    }
    for (auto& [rail, on] : rails)
        for (auto* backwards : {&on.newest, &on.withPartsOff})
            for (OnRail::Group& group : *backwards)
                std::reverse(group.begin(), group.end());
    return rails;
}

ReadingGroup groupOf(const CaseState& state, const BoardCircuit& circuit, const OnRail::Group& members) {
    const Taken& first = state.readings[members.front()];
    ReadingGroup group;
    const NetIndex against =
        first.against >= 0 && !state.board.nets[static_cast<std::size_t>(first.against)].ground
            ? first.against
            : -1;
    group.probed = {first.net, against, first.taken.reading.mode, first.taken.reversed};
    group.rail = circuit.railOf(first.net);
    group.doubt = {first.warm || first.bySupply, first.taken.reversed};
    group.then = first.then;
    for (const std::string& name : first.then->off)
        if (const PartIndex p = partNamed(state, name); p >= 0) group.off.push_back(p);
    std::sort(group.off.begin(), group.off.end());
    group.place = first.taken.place;
    group.fact = first.fact;
    const std::size_t skipped =
        members.size() > ReadingsOfARail::again ? members.size() - ReadingsOfARail::again : 0;
    for (std::size_t i = skipped; i < members.size(); ++i)
        group.readings.push_back(state.readings[members[i]].taken.reading);
    return group;
}

/// The newest reading of each rail against ground in one mode, by what it shows.
class ReadElsewhere {
  public:
    void add(int rail, const Reading& reading) { m_newest[rail] = reading; }
    void sort() {
        for (const auto& [rail, reading] : m_newest)
            if (reading.state == ReadingState::Value) m_values.emplace_back(reading.value, rail);
        std::sort(m_values.begin(), m_values.end());
    }

    /// The mean density of a reading that is another rail's. The number of rails is told in steps, so that
    /// one more that is read does not move what is weighed of all.
    double densityOf(const Reading& reading, int ownRail) const {
        const auto others = m_newest.size() - m_newest.count(ownRail);
        if (others == 0) return strayDensity(reading);
        std::size_t step = 1;
        while (step < others)
            step *= 2;
        double sum = static_cast<double>(step - others) * strayDensity(reading);
        if (reading.state == ReadingState::OverRange) {
            for (const auto& [rail, other] : m_newest)
                if (rail != ownRail) sum += alikeDensity(reading, other);
        } else {
            const auto [least, most] = alikeRange(reading);
            for (auto at = std::lower_bound(m_values.begin(), m_values.end(), std::pair(least, -1));
                 at != m_values.end() && at->first <= most; ++at)
                if (at->second != ownRail) sum += alikeDensity(reading, m_newest.at(at->second));
        }
        return sum / static_cast<double>(step);
    }

  private:
    std::map<int, Reading> m_newest; ///< by rail
    std::vector<std::pair<double, int>> m_values;
};

} // namespace

std::vector<ReadingGroup> readingGroups(const CaseState& state, const BoardCircuit& circuit,
                                        std::vector<ReadingsLeftOut>* leftOut) {
    std::vector<ReadingGroup> groups;
    for (const auto& [rail, on] : sortByRail(state, circuit)) {
        for (const auto* some : {&on.first, &on.newest, &on.withPartsOff})
            for (const OnRail::Group& members : *some)
                groups.push_back(groupOf(state, circuit, members));
        if (leftOut && on.left.readings > 0) leftOut->push_back(on.left);
    }
    std::sort(groups.begin(), groups.end(),
              [](const ReadingGroup& a, const ReadingGroup& b) { return a.fact < b.fact; });
    // A slip is often a probe on the wrong pad: what it reads then, another rail reads as well.
    std::map<MeterMode, ReadElsewhere> elsewhere;
    for (const Taken& r : state.readings)
        if (counts(circuit, r) && r.taken.against.empty())
            elsewhere[r.taken.reading.mode].add(circuit.railOf(r.net), r.taken.reading);
    for (auto& [mode, read] : elsewhere)
        read.sort();
    constexpr double otherRail = 0.4;
    for (ReadingGroup& group : groups)
        for (const Reading& reading : group.readings) {
            const double own = strayDensity(reading);
            if (group.probed.against >= 0) {
                group.strays.push_back(own);
                continue;
            }
            const double there = elsewhere[group.probed.mode].densityOf(reading, group.rail);
            // In steps, so that one more rail that reads alike does not move what is weighed of all.
            constexpr double perNat = 5;
            const double log = std::log((1 - otherRail) * own + otherRail * there);
            group.strays.push_back(std::exp(std::round(perNat * log) / perNat));
        }
    return groups;
}

} // namespace ustor
