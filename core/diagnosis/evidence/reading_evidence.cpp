#include "diagnosis/evidence/reading_evidence.h"

#include "diagnosis/hypothesis/presence.h"
#include "diagnosis/odds.h"

#include <algorithm>
#include <cmath>
#include <cstdint>

namespace ustor {

bool ReadingEvidence::Given::isOn(std::size_t fault, int group) const {
    const auto at = std::lower_bound(groups->begin(), groups->end(), group);
    return at != groups->end() && *at == group &&
           (*on)[fault][static_cast<std::size_t>(at - groups->begin())];
}

void ReadingEvidence::forget() {
    m_between.forgetStands();
    m_stands.clear();
    m_contentIds.clear();
    m_logs.clear();
    m_railLogs.clear();
    m_courses.clear();
}

std::string ReadingEvidence::contentOf(const ReadingGroup& group) const {
    std::string key;
    put(key, group.probed.place);
    put(key, group.probed.against);
    put(key, group.probed.mode);
    put(key, group.probed.reversed);
    put(key, group.doubt.warm);
    put(key, group.then.get());
    if (const int rail = m_circuit.railOf(group.probed.against); rail >= 0)
        put(key, m_readLoads[static_cast<std::size_t>(rail)]);
    for (std::size_t i = 0; i < group.readings.size(); ++i) {
        put(key, group.readings[i].state);
        put(key, group.readings[i].value);
        put(key, group.readings[i].resolution);
        put(key, group.strayOf(i));
    }
    return key;
}

/// What each rail took by itself when it was last read in ohms.
void ReadingEvidence::lookUpLoads() {
    constexpr double least_ohms = 0.1, open_ohms = 2e7;
    m_readLoads.assign(m_circuit.rails().size(), 0.0);
    for (const ReadingGroup& group : m_groups) {
        if (group.probed.against >= 0 || group.probed.mode != MeterMode::Ohms || group.probed.reversed)
            continue;
        const Reading& newest = group.readings.back();
        m_readLoads[static_cast<std::size_t>(group.rail)] =
            newest.state == ReadingState::Value ? std::max(newest.value, least_ohms) : open_ohms;
    }
}

void ReadingEvidence::setGroups(std::vector<ReadingGroup> groups) {
    m_groups = std::move(groups);
    m_contents.clear();
    m_onRail.clear();
    m_askedBy.clear();
    constexpr std::size_t enough = 100'000;
    if (m_logs.size() + m_railLogs.size() + m_courses.size() > enough) forget();
    lookUpLoads();
    for (std::size_t i = 0; i < m_groups.size(); ++i) {
        const ReadingGroup& group = m_groups[i];
        m_stands.insert(group.then);
        m_contents.push_back(
            m_contentIds.try_emplace(contentOf(group), static_cast<int>(m_contentIds.size())).first->second);
        m_logs.resize(m_contentIds.size());
        RailGroups& on = m_onRail[group.rail];
        on.groups.push_back(static_cast<int>(i));
        put(on.version, m_contents.back());
        if (on.with.empty()) on.with.push_back(group.rail);
        if (const int other = m_circuit.railOf(group.probed.against); other >= 0) {
            m_askedBy[other].push_back(group.rail);
            on.with.push_back(other);
        }
    }
    for (const auto& [rail, on] : m_onRail) {
        m_askedBy[rail].push_back(rail);
        for (const int sibling : siblingsBefore(rail))
            m_askedBy[sibling].push_back(rail);
    }
    for (auto& [rail, askers] : m_askedBy) {
        std::sort(askers.begin(), askers.end());
        askers.erase(std::unique(askers.begin(), askers.end()), askers.end());
    }
    soundBoard();
}

void ReadingEvidence::soundBoard() {
    m_soundSteps.assign(m_groups.size(), 0.0);
    for (auto& [rail, on] : m_onRail) {
        const auto& logs = railLogs(rail, {}, soundSiblings(rail, {}));
        for (std::size_t k = 0; k < on.groups.size(); ++k)
            m_soundSteps[static_cast<std::size_t>(on.groups[k])] = logs[k] - (k > 0 ? logs[k - 1] : 0);
    }
}

void ReadingEvidence::setKnownGood(const KnownGoodSet& known) {
    m_good.clear();
    m_goodLogs.clear();
    const auto sound = std::make_shared<const PartsOff>();
    for (const KnownReading& good : known.readings) {
        const NetIndex net = netOfPlace(m_board, good.place);
        const int rail = m_circuit.railOf(net);
        if (rail < 0 || good.reading.mode == MeterMode::Volts) continue;
        const auto same = std::find_if(m_good.begin(), m_good.end(), [&](const ReadingGroup& g) {
            return g.rail == rail && g.probed.mode == good.reading.mode && g.probed.reversed == good.reversed;
        });
        if (same != m_good.end())
            same->readings.push_back(good.reading);
        else
            m_good.push_back({{net, -1, good.reading.mode, good.reversed},
                              rail,
                              {false, good.reversed, true},
                              sound,
                              {},
                              good.place,
                              {good.reading}});
    }
    forget();
    setGroups(std::move(m_groups));
}

const std::vector<int>& ReadingEvidence::siblingsBefore(int rail) {
    const auto [known, fresh] = m_siblingRails.try_emplace(rail);
    if (!fresh) return known->second;
    std::set<int> before;
    for (const NetIndex net : m_circuit.rails()[static_cast<std::size_t>(rail)].nets)
        for (const NetIndex sibling : m_siblings.of(net))
            if (const int its = m_circuit.railOf(sibling); its >= 0 && its < rail) before.insert(its);
    known->second.assign(before.begin(), before.end());
    return known->second;
}

bool ReadingEvidence::touches(const Fault& fault, int rail) const {
    if (m_circuit.railOf(fault.a) == rail || m_circuit.railOf(fault.b) == rail) return true;
    if (fault.kind != FaultKind::Open) return false;
    const auto& pads = m_board.parts[fault.part].pads;
    return std::any_of(pads.begin(), pads.end(),
                       [&](const Pad& pad) { return m_circuit.railOf(pad.net) == rail; });
}

std::vector<int> ReadingEvidence::touched(std::span<const Fault> faults) {
    std::vector<int> rails;
    const auto add = [&](NetIndex net) {
        const int rail = m_circuit.railOf(net);
        if (rail < 0) return;
        if (const auto asked = m_askedBy.find(rail); asked != m_askedBy.end())
            rails.insert(rails.end(), asked->second.begin(), asked->second.end());
    };
    for (const Fault& fault : faults) {
        add(fault.a);
        add(fault.b);
        if (fault.kind == FaultKind::Open)
            for (const Pad& pad : m_board.parts[fault.part].pads)
                add(pad.net);
    }
    std::sort(rails.begin(), rails.end());
    rails.erase(std::unique(rails.begin(), rails.end()), rails.end());
    return rails;
}

const std::vector<double>& ReadingEvidence::goodLogs(int rail) {
    const auto [known, fresh] = m_goodLogs.try_emplace(rail);
    if (!fresh) return known->second;
    known->second.assign(m_circuit.rails()[static_cast<std::size_t>(rail)].levels.size(), 0.0);
    for (const ReadingGroup& good : m_good) {
        if (good.rail != rail) continue;
        const auto own = logsOn(good, m_between.shown(good, m_between.settingOf(good, {}, {}, {})));
        for (std::size_t i = 0; i < own.size(); ++i)
            known->second[i] += own[i];
    }
    return known->second;
}

std::vector<int> ReadingEvidence::soundSiblings(int rail, std::span<const Fault> faults) {
    std::vector<int> sound;
    for (const int sibling : siblingsBefore(rail))
        if (m_onRail.contains(sibling) && std::none_of(faults.begin(), faults.end(), [&](const Fault& fault) {
                return touches(fault, sibling);
            }))
            sound.push_back(sibling);
    return sound;
}

std::vector<double> ReadingEvidence::levelLogs(int rail, const std::vector<int>& soundSiblings) {
    const auto& levels = m_circuit.rails()[static_cast<std::size_t>(rail)].levels;
    std::vector<double> logs;
    for (const LoadLevel& level : levels)
        logs.push_back(std::log(std::max(level.share, 1e-300)));
    const auto& good = goodLogs(rail);
    for (std::size_t i = 0; i < logs.size(); ++i)
        logs[i] += good[i];
    for (const int sibling : soundSiblings) {
        std::vector<double> its(levels.size(), 0.0);
        for (const int g : m_onRail.at(sibling).groups) {
            const auto& own = logsOf(g, {}, {});
            for (std::size_t i = 0; i < its.size(); ++i)
                its[i] += own[i];
        }
        // Built alike, they mostly take alike, not always (judgement).
        constexpr double alike = 0.9;
        std::vector<double> either;
        for (std::size_t i = 0; i < its.size(); ++i)
            either.push_back(its[i] + logs[i]);
        const double prior = logSum(logs), any = std::log(1 - alike) + logSum(either) - prior;
        for (std::size_t i = 0; i < its.size(); ++i)
            logs[i] += logSum({std::log(alike) + its[i], any});
    }
    const double sum = logSum(logs);
    for (double& log : logs)
        log -= sum;
    return logs;
}

std::vector<double> ReadingEvidence::logsOn(const ReadingGroup& group,
                                            const std::vector<PredictedReading>& predicted) const {
    const double n = static_cast<double>(group.readings.size()), slip = slipShare(group.doubt);
    double stray = 0;
    for (std::size_t i = 0; i < group.readings.size(); ++i)
        stray += std::log(group.strayOf(i));
    const double slipped = slip * std::exp(stray / n);
    std::vector<double> logs;
    logs.reserve(predicted.size());
    for (const PredictedReading& each : predicted) {
        double fits = 0;
        for (const Reading& reading : group.readings)
            fits += std::log(std::max(1e-300, readingDensity(reading, each, group.doubt)));
        logs.push_back(std::log((1 - slip) * std::exp(fits / n) + slipped));
    }
    return logs;
}

const std::vector<double>& ReadingEvidence::logsOf(int group, const Given& given, LoadBehind behind) {
    const ReadingGroup& its = m_groups[static_cast<std::size_t>(group)];
    std::vector<Acting> acting;
    bool open = false;
    for (std::size_t i = 0; i < given.acting.size(); ++i)
        if (given.isOn(i, group)) {
            acting.push_back(given.acting[i]);
            open = open || given.acting[i].fault->kind == FaultKind::Open;
        }
    LogsOfContent& known = m_logs[static_cast<std::size_t>(m_contents[static_cast<std::size_t>(group)])];
    if (its.probed.against < 0 && !open) {
        // Most are: what lies to ground says it all.
        const double siemens = m_between.siemensToGround(its, acting, behind, m_readLoads);
        const auto [at, fresh] = known.bySiemens.try_emplace(siemens);
        if (fresh)
            at->second =
                logsOn(its, m_between.shown(its, m_between.settingOf(its, acting, behind, m_readLoads)));
        return at->second;
    }
    const auto setting = m_between.settingOf(its, acting, behind, m_readLoads);
    const auto [at, fresh] = known.bySetting.try_emplace(setting.key);
    if (fresh) at->second = logsOn(its, m_between.shown(its, setting));
    return at->second;
}

/// What lies behind a punched switch shows through it. Of two rails that are joined so, the one that reads
/// lower by itself is asked by itself, and the other given what that one said.
int ReadingEvidence::readFirst(int rail, const Given& given) const {
    const auto& rails = m_circuit.rails();
    for (std::size_t i = 0; i < given.acting.size(); ++i) {
        const Fault& fault = *given.acting[i].fault;
        if (!fault.through()) continue;
        const int a = m_circuit.railOf(fault.a), b = m_circuit.railOf(fault.b);
        const int other = rail == a ? b : rail == b ? a : -1;
        if (other < 0 || other == rail) continue;
        // Where it was never on the board while this rail was read, it joins nothing.
        const auto read = m_onRail.find(rail);
        const bool joins =
            read != m_onRail.end() && std::any_of(read->second.groups.begin(), read->second.groups.end(),
                                                  [&](int group) { return given.isOn(i, group); });
        if (!joins) continue;
        const double own = rails[static_cast<std::size_t>(rail)].usualOhms,
                     its = rails[static_cast<std::size_t>(other)].usualOhms;
        if (its < own || (its == own && other < rail)) return other;
    }
    return -1;
}

std::vector<LoadLevel> ReadingEvidence::levelsGiven(int rail, const Given& given) {
    std::vector<LoadLevel> levels = m_circuit.rails()[static_cast<std::size_t>(rail)].levels;
    std::vector<Fault> faults;
    for (const Acting& each : given.acting)
        faults.push_back(*each.fault);
    std::vector<double> logs = levelLogs(rail, soundSiblings(rail, faults));
    if (const auto read = m_onRail.find(rail); read != m_onRail.end())
        for (const int g : read->second.groups) {
            const auto& own = logsOf(g, given, {});
            for (std::size_t i = 0; i < levels.size(); ++i)
                logs[i] += own[i];
        }
    const double sum = logSum(logs);
    for (std::size_t i = 0; i < levels.size(); ++i)
        levels[i].share = std::exp(logs[i] - sum);
    constexpr double least = 0.01;
    std::erase_if(levels, [](const LoadLevel& level) { return level.share < least; });
    return levels;
}

void ReadingEvidence::putActing(std::string& key, int rail, const Given& given) const {
    const auto read = m_onRail.find(rail);
    if (read == m_onRail.end()) return;
    key += read->second.version;
    for (std::size_t i = 0; i < given.acting.size(); ++i) {
        const Acting& each = given.acting[i];
        std::string on;
        bool any = false;
        for (const int group : read->second.groups) {
            const bool its = given.isOn(i, group);
            any = any || its;
            on += its ? '1' : '0';
        }
        if (!any) continue;
        put(key, each.fault->a);
        put(key, each.fault->b);
        put(key, each.ohms);
        if (each.fault->kind == FaultKind::Open) put(key, each.fault->part);
        if (each.fault->through())
            for (const NetIndex net : {each.fault->a, each.fault->b})
                if (const int joined = m_circuit.railOf(net); joined >= 0)
                    put(key, m_readLoads[static_cast<std::size_t>(joined)]);
        key += on;
    }
}

const std::vector<double>& ReadingEvidence::railLogs(int rail, const Given& given,
                                                     const std::vector<int>& soundSiblings) {
    const auto& groups = m_onRail.at(rail).groups;
    const int first = readFirst(rail, given);
    std::string key;
    put(key, rail);
    putActing(key, rail, given);
    if (first >= 0) {
        put(key, first);
        putActing(key, first, given);
    }
    for (const int sibling : soundSiblings) {
        put(key, sibling);
        key += m_onRail.at(sibling).version;
    }
    const auto [known, fresh] = m_railLogs.try_emplace(std::move(key));
    if (!fresh) return known->second;
    const auto& levels = m_circuit.rails()[static_cast<std::size_t>(rail)].levels;
    std::vector<std::vector<double>> logs(groups.size()); // of each group, by load
    for (auto& each : logs)
        each.reserve(levels.size());
    const std::vector<double> prior = levelLogs(rail, soundSiblings);
    const std::vector<LoadLevel> behind =
        first < 0 ? std::vector<LoadLevel>{{0, 1}} : levelsGiven(first, given);
    std::vector<const std::vector<double>*> own;
    own.reserve(groups.size());
    for (const LoadLevel& its : behind) {
        own.clear();
        for (const int g : groups)
            own.push_back(&logsOf(g, given, {first, its.ohms}));
        constexpr double least = -10;
        const double share = std::log(its.share);
        for (std::size_t i = 0; i < levels.size(); ++i) {
            if (prior[i] < least) continue;
            double log = prior[i] + share;
            for (std::size_t k = 0; k < groups.size(); ++k) {
                log += (*own[k])[i];
                logs[k].push_back(log);
            }
        }
    }
    known->second.reserve(logs.size());
    for (const auto& each : logs)
        known->second.push_back(logSum(each));
    return known->second;
}

/// Faults that share rails stay together.
std::vector<std::vector<Fault>> ReadingEvidence::separate(std::span<const Fault> faults) {
    std::vector<std::vector<Fault>> apart;
    std::vector<std::vector<int>> railsOf;
    for (const Fault& fault : faults) {
        std::vector<Fault> with{fault};
        std::vector<int> rails = touched({&fault, 1});
        for (std::size_t k = 0; k < apart.size();) {
            std::vector<int> shared;
            std::set_intersection(rails.begin(), rails.end(), railsOf[k].begin(), railsOf[k].end(),
                                  std::back_inserter(shared));
            if (shared.empty()) {
                ++k;
                continue;
            }
            with.insert(with.begin(), apart[k].begin(), apart[k].end());
            std::vector<int> all;
            std::set_union(rails.begin(), rails.end(), railsOf[k].begin(), railsOf[k].end(),
                           std::back_inserter(all));
            rails = std::move(all);
            apart.erase(apart.begin() + static_cast<std::ptrdiff_t>(k));
            railsOf.erase(railsOf.begin() + static_cast<std::ptrdiff_t>(k));
        }
        if (rails.empty()) continue; // nothing that was read tells of it
        apart.push_back(std::move(with));
        railsOf.push_back(std::move(rails));
    }
    return apart;
}

std::vector<ReadingEvidence::SharedCourse> ReadingEvidence::courses(std::span<const Fault> faults) {
    std::vector<SharedCourse> all;
    for (const auto& some : separate(faults))
        all.push_back(courseOf(some));
    return all;
}

PartClass ReadingEvidence::kindOf(const Fault& fault) const {
    return fault.part < 0 ? PartClass::Other : m_board.parts[fault.part].partClass;
}

ReadingEvidence::SharedCourse ReadingEvidence::courseOf(const std::vector<Fault>& faults) {
    const std::vector<int> rails = touched(faults);
    std::vector<int> groups;
    std::string key;
    for (const int rail : rails) {
        const RailGroups& read = m_onRail.at(rail);
        groups.insert(groups.end(), read.groups.begin(), read.groups.end());
        put(key, rail);
        key += read.version;
        for (const int sibling : siblingsBefore(rail))
            if (const auto its = m_onRail.find(sibling); its != m_onRail.end()) key += its->second.version;
    }
    std::sort(groups.begin(), groups.end());
    // Where the groups stand in the order of all is part of what is shared.
    for (const int group : groups)
        put(key, group);
    std::vector<std::vector<bool>> on;
    for (const Fault& fault : faults) {
        put(key, fault.kind);
        put(key, fault.a);
        put(key, fault.b);
        put(key, reinterpret_cast<std::uintptr_t>(&shortLevels(kindOf(fault))));
        if (fault.kind == FaultKind::Open) put(key, fault.part);
        if (fault.through())
            for (const NetIndex net : {fault.a, fault.b})
                if (const int joined = m_circuit.railOf(net); joined >= 0)
                    put(key, m_readLoads[static_cast<std::size_t>(joined)]);
        std::vector<bool> its;
        const PartsOff* last = nullptr;
        bool was = false;
        for (const int group : groups) {
            const PartsOff* then = m_groups[static_cast<std::size_t>(group)].then.get();
            if (then != last) was = isOn(m_board, *then, fault);
            last = then;
            its.push_back(was);
            key += was ? '1' : '0';
        }
        on.push_back(std::move(its));
    }
    const auto [known, fresh] = m_courses.try_emplace(std::move(key));
    if (fresh) known->second = std::make_shared<const Course>(weighed(faults, rails, std::move(groups), on));
    return known->second;
}

/// Which of the faults change anything that is read on the rail: those on it, on what another lead was on,
/// and on what a punched switch joins to these.
std::vector<char> ReadingEvidence::actsOn(int rail, std::span<const Acting> acting) const {
    std::vector<int> reached = m_onRail.at(rail).with;
    std::vector<char> acts(acting.size(), 0);
    for (bool grown = true; grown;) {
        grown = false;
        for (std::size_t i = 0; i < acting.size(); ++i) {
            const Fault& fault = *acting[i].fault;
            const bool here =
                std::any_of(reached.begin(), reached.end(), [&](int each) { return touches(fault, each); });
            if (acts[i] || !here) continue;
            acts[i] = 1;
            grown = true;
            if (fault.through())
                for (const NetIndex net : {fault.a, fault.b})
                    if (const int joined = m_circuit.railOf(net); joined >= 0) reached.push_back(joined);
        }
    }
    return acts;
}

/// Which of some faults act on a rail, and when: shorts of one net to ground that were always on the board
/// together are one, told in steps, so that all that lie there share what they come to.
ReadingEvidence::ActingOnRail ReadingEvidence::actingOn(int rail, std::span<const Acting> acting,
                                                        const std::vector<std::vector<bool>>& on) const {
    const std::vector<char> acts = actsOn(rail, acting);
    const auto plainShort = [&](std::size_t i) {
        return acting[i].fault->conducts() && !acting[i].fault->through();
    };
    ActingOnRail its;
    for (std::size_t i = 0; i < acting.size(); ++i) {
        if (!acts[i]) continue;
        const auto same = std::find_if(its.members.begin(), its.members.end(), [&](const auto& members) {
            const std::size_t first = members.front();
            return plainShort(i) && plainShort(first) && acting[i].fault->a == acting[first].fault->a &&
                   on[i] == on[first];
        });
        if (same != its.members.end()) {
            same->push_back(i);
        } else {
            its.members.push_back({i});
            its.on.push_back(on[i]);
        }
    }
    return its;
}

std::vector<Acting> ReadingEvidence::ActingOnRail::at(std::span<const Acting> acting) const {
    std::vector<Acting> all;
    all.reserve(members.size());
    for (const auto& some : members) {
        Acting together = acting[some.front()];
        for (std::size_t n = 1; n < some.size(); ++n) {
            constexpr double perDecade = 8;
            const double both = 1 / (1 / together.ohms + 1 / acting[some[n]].ohms);
            together.ohms = std::pow(10.0, std::round(perDecade * std::log10(both)) / perDecade);
        }
        all.push_back(together);
    }
    return all;
}

/// Over how much each of them conducts, all together.
ReadingEvidence::Course ReadingEvidence::weighed(const std::vector<Fault>& faults,
                                                 const std::vector<int>& rails, std::vector<int> groups,
                                                 const std::vector<std::vector<bool>>& on) {
    std::vector<Acting> acting;
    for (const Fault& fault : faults)
        acting.push_back({&fault, 0});
    std::vector<ActingOnRail> acts;
    std::vector<std::vector<int>> siblings; // of each rail, those that no fault touches
    for (const int rail : rails) {
        acts.push_back(actingOn(rail, acting, on));
        siblings.push_back(soundSiblings(rail, faults));
    }
    // Of each group its rail, and the place among the groups of that.
    std::vector<std::pair<std::size_t, std::size_t>> places;
    std::vector<std::size_t> passed(rails.size(), 0);
    for (const int group : groups) {
        const int rail = m_groups[static_cast<std::size_t>(group)].rail;
        const auto r = static_cast<std::size_t>(std::find(rails.begin(), rails.end(), rail) - rails.begin());
        places.emplace_back(r, passed[r]++);
    }
    std::vector<std::vector<double>> logs(groups.size());
    std::vector<const std::vector<double>*> ownOf(rails.size());
    const auto weighLevels = [&](double share) {
        for (std::size_t r = 0; r < rails.size(); ++r) {
            const std::vector<Acting> some = acts[r].at(acting);
            ownOf[r] = &railLogs(rails[r], {some, &groups, &acts[r].on}, siblings[r]);
        }
        double log = share;
        for (std::size_t g = 0; g < groups.size(); ++g) {
            const auto [r, k] = places[g];
            const auto& own = *ownOf[r];
            log += own[k] - (k > 0 ? own[k - 1] : 0);
            logs[g].push_back(log);
        }
    };
    const auto conducting = static_cast<std::size_t>(
        std::count_if(faults.begin(), faults.end(), [](const Fault& f) { return f.conducts(); }));
    const auto over = [&](auto&& self, std::size_t i, double share) -> void {
        if (i == acting.size()) return weighLevels(share);
        if (!faults[i].conducts()) return self(self, i + 1, share);
        // Several at once are weighed at every second level or fourth, which has the share of its neighbours
        // as well.
        const auto& levels = shortLevels(kindOf(faults[i]));
        const std::size_t step = conducting > 2 ? 4 : conducting;
        for (std::size_t k = 0; k < levels.size(); k += step) {
            double its = 0;
            for (std::size_t n = k; n < std::min(levels.size(), k + step); ++n)
                its += levels[n].share;
            acting[i].ohms = levels[k].ohms;
            self(self, i + 1, share + std::log(its));
        }
    };
    over(over, 0, 0);
    Course course;
    double before = 0;
    for (std::size_t g = 0; g < groups.size(); ++g) {
        const double now = logSum(logs[g]);
        course.steps.push_back(now - before);
        course.gain += course.steps.back() - m_soundSteps[static_cast<std::size_t>(groups[g])];
        before = now;
    }
    course.groups = std::move(groups);
    return course;
}

ReadingEvidence::SharedCourse ReadingEvidence::unknownCourse(std::span<const Fault> faults) {
    constexpr double touched = 0.1; // of the places (judgement)
    std::vector<double> own = m_soundSteps;
    for (const SharedCourse& known : courses(faults))
        for (std::size_t k = 0; k < known->groups.size(); ++k)
            own[static_cast<std::size_t>(known->groups[k])] = known->steps[k];
    auto unknown = std::make_shared<Course>();
    for (std::size_t g = 0; g < m_groups.size(); ++g) {
        double stray = 0;
        for (const Reading& reading : m_groups[g].readings)
            stray += std::log(strayDensity(reading));
        stray /= static_cast<double>(m_groups[g].readings.size());
        unknown->groups.push_back(static_cast<int>(g));
        unknown->steps.push_back(logSum({std::log(1 - touched) + own[g], std::log(touched) + stray}));
        unknown->gain += unknown->steps.back() - m_soundSteps[g];
    }
    return unknown;
}

} // namespace ustor
