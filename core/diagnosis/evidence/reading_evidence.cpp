#include "diagnosis/evidence/reading_evidence.h"

#include "diagnosis/hypothesis/presence.h"
#include "diagnosis/odds.h"
#include "rail/stretch.h"

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <set>

namespace ustor {
namespace {

/// Bytes of a number into a key.
template <class T> void put(std::string& key, T value) {
    key.append(reinterpret_cast<const char*>(&value), sizeof value);
}

/// A slip is often a probe on the wrong pad: what it reads then, another rail reads as well.
void strayToOthers(std::vector<ReadingGroup>& groups) {
    constexpr double otherRail = 0.4;
    for (ReadingGroup& group : groups)
        for (const Reading& reading : group.readings) {
            double there = 0;
            int others = 0;
            for (const ReadingGroup& other : groups) {
                if (other.rail == group.rail || other.probed.mode != group.probed.mode ||
                    other.probed.against >= 0)
                    continue;
                ++others;
                there += alikeDensity(reading, other.readings.back());
            }
            const double own = strayDensity(reading);
            const bool toGround = group.probed.against < 0;
            group.strays.push_back(toGround && others > 0 ? (1 - otherRail) * own + otherRail * there / others
                                                          : own);
        }
}

} // namespace

std::vector<ReadingGroup> readingGroups(const CaseState& state, const BoardCircuit& circuit) {
    std::vector<ReadingGroup> groups;
    for (const auto& r : state.readings) {
        const ReadingTaken& taken = r.taken;
        if (taken.reading.mode == MeterMode::Volts || circuit.railOf(r.net) < 0) continue;
        const NetIndex against = r.against >= 0 && !state.board.nets[r.against].ground ? r.against : -1;
        if (!taken.against.empty() && r.against < 0) continue;
        const auto same = std::find_if(groups.begin(), groups.end(), [&](const ReadingGroup& g) {
            return g.probed.place == r.net && g.probed.against == against &&
                   g.probed.mode == taken.reading.mode && g.probed.reversed == taken.reversed &&
                   g.doubt.warm == (r.warm || r.bySupply) && (g.then == r.then || *g.then == *r.then);
        });
        if (same != groups.end()) {
            same->readings.push_back(taken.reading);
            same->facts.push_back(r.fact);
            continue;
        }
        ReadingGroup group;
        group.probed = {r.net, against, taken.reading.mode, taken.reversed};
        group.rail = circuit.railOf(r.net);
        group.doubt = {r.warm || r.bySupply, taken.reversed};
        group.then = r.then;
        for (const std::string& name : r.then->off)
            if (const PartIndex p = state.board.findPart(name); p >= 0) group.off.push_back(p);
        std::sort(group.off.begin(), group.off.end());
        group.place = taken.place;
        group.readings = {taken.reading};
        group.facts = {r.fact};
        groups.push_back(std::move(group));
    }
    strayToOthers(groups);
    return groups;
}

void ReadingEvidence::setGroups(std::vector<ReadingGroup> groups) {
    m_groups = std::move(groups);
    m_onRail.clear();
    m_railCourses.clear();
    m_courses.clear();
    m_logs.clear();
    m_best.assign(m_groups.size(), -1e300);
    m_healthy.reset();
    for (std::size_t i = 0; i < m_groups.size(); ++i)
        m_onRail[m_groups[i].rail].push_back(i);
}

void ReadingEvidence::setKnownGood(const KnownGoodSet& known) {
    m_good.clear();
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
                              {good.reading},
                              {}});
    }
    setGroups(std::move(m_groups));
}

const std::vector<int>& ReadingEvidence::siblingsBefore(int rail) {
    const auto [known, fresh] = m_siblingRails.try_emplace(rail);
    if (fresh)
        for (const NetIndex net : m_circuit.rails()[static_cast<std::size_t>(rail)].nets)
            for (const NetIndex sibling : m_siblings.of(net))
                if (const int its = m_circuit.railOf(sibling);
                    its >= 0 && its < rail &&
                    std::find(known->second.begin(), known->second.end(), its) == known->second.end())
                    known->second.push_back(its);
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
    for (const auto& [rail, groups] : m_onRail) {
        const auto reached = [&, rail = rail](const Fault& fault) {
            const auto& siblings = siblingsBefore(rail);
            return touches(fault, rail) || std::any_of(siblings.begin(), siblings.end(),
                                                       [&](int sibling) { return touches(fault, sibling); });
        };
        if (std::any_of(faults.begin(), faults.end(), reached)) rails.push_back(rail);
    }
    return rails;
}

std::vector<double> ReadingEvidence::levelLogs(int rail, std::span<const Acting> acting) {
    const auto& levels = m_circuit.rails()[static_cast<std::size_t>(rail)].levels;
    std::vector<double> logs;
    for (const LoadLevel& level : levels)
        logs.push_back(std::log(std::max(level.share, 1e-300)));
    for (const ReadingGroup& good : m_good) {
        if (good.rail != rail) continue;
        const BoardCircuit::Piece& piece = pieceOf(good.probed.place, good.off);
        Curve& curve = curveOf(good, good.off);
        std::vector<PredictedReading> predicted;
        for (const LoadLevel& level : levels)
            predicted.push_back(
                at(piece.loadFactor > 0 ? 1 / (level.ohms * piece.loadFactor) : 0, curve, good, good.off));
        const auto own = logsOn(good, predicted);
        for (std::size_t i = 0; i < logs.size(); ++i)
            logs[i] += own[i];
    }
    for (const int sibling : siblingsBefore(rail)) {
        const auto groups = m_onRail.find(sibling);
        const bool faulty = std::any_of(acting.begin(), acting.end(),
                                        [&](const Acting& each) { return touches(*each.fault, sibling); });
        if (groups == m_onRail.end() || faulty) continue;
        for (const std::size_t g : groups->second) {
            const auto& its = logsOf(g, {}, {});
            for (std::size_t i = 0; i < logs.size(); ++i)
                logs[i] += its[i];
        }
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
    std::vector<double> logs;
    for (const PredictedReading& each : predicted) {
        double fits = 0;
        for (const Reading& reading : group.readings)
            fits += std::log(std::max(1e-300, readingDensity(reading, each, group.doubt)));
        logs.push_back(std::log((1 - slip) * std::exp(fits / n) + slip * std::exp(stray / n)));
    }
    return logs;
}

/// What acts on a reading between two rails, told as simply as its doubt allows: where no link of a rail is
/// off, a few milliohms of links are nothing beside a probe's contact, and a short is taken to lie where it
/// is read; shorts side by side are one; ohms are told in steps. So many faults share one answer of the
/// circuit.
std::vector<Conductor> ReadingEvidence::conductorsFor(const ReadingGroup& group,
                                                      std::span<const Acting> acting,
                                                      const std::vector<PartIndex>& off) const {
    const auto placed = [&](NetIndex net) {
        const int rail = m_circuit.railOf(net);
        if (rail < 0) return -1;
        const auto& nets = m_circuit.rails()[static_cast<std::size_t>(rail)].nets;
        const bool cut = std::any_of(off.begin(), off.end(), [&](PartIndex part) {
            return isLink(m_board.parts[part]) && std::any_of(nets.begin(), nets.end(), [&](NetIndex each) {
                       return m_board.touches(part, each);
                   });
        });
        if (cut) return net;
        return rail == group.rail ? group.probed.place : nets.front();
    };
    std::vector<Conductor> all;
    for (const Acting& each : acting) {
        if (!each.fault->conducts() || !isOn(m_board, *group.then, *each.fault)) continue;
        const NetIndex a = placed(each.fault->a), b = placed(each.fault->b);
        if (a == b) continue;
        const auto same = std::find_if(all.begin(), all.end(), [&](const Conductor& c) {
            return (c.a == a && c.b == b) || (c.a == b && c.b == a);
        });
        if (same == all.end())
            all.push_back({a, b, each.ohms});
        else
            same->ohms = 1 / (1 / same->ohms + 1 / each.ohms);
    }
    constexpr double perDecade = 8;
    for (Conductor& c : all)
        c.ohms = std::pow(10.0, std::round(perDecade * std::log10(c.ohms)) / perDecade);
    // What no conductor joins to the rail is told by other readings.
    std::set<int> joined{group.rail, m_circuit.railOf(group.probed.against)};
    joined.erase(-1);
    for (bool grown = true; grown;) {
        grown = false;
        for (const Conductor& c : all) {
            const int a = m_circuit.railOf(c.a), b = m_circuit.railOf(c.b);
            if (a < 0 || b < 0 || joined.contains(a) == joined.contains(b)) continue;
            joined.insert({a, b});
            grown = true;
        }
    }
    std::erase_if(all, [&](const Conductor& c) {
        return !joined.contains(m_circuit.railOf(c.a)) && !joined.contains(m_circuit.railOf(c.b));
    });
    return all;
}

const BoardCircuit::Piece& ReadingEvidence::pieceOf(NetIndex net, const std::vector<PartIndex>& off) {
    std::string key;
    put(key, net);
    for (const PartIndex part : off)
        if (isLink(m_board.parts[part])) put(key, part);
    const auto [known, fresh] = m_pieces.try_emplace(std::move(key));
    if (fresh) known->second = m_circuit.pieceOf(net, off);
    return known->second;
}

/// Siemens that the faults lay between the piece and ground: shorts as they are, what hangs behind a punched
/// switch through it. A few milliohms of links are nothing beside a probe's contact.
double ReadingEvidence::siemensOf(const BoardCircuit::Piece& piece, const ReadingGroup& group,
                                  std::span<const Acting> acting, const std::vector<PartIndex>& off,
                                  Behind behind, bool further) {
    double siemens = 0;
    for (const Acting& each : acting) {
        const Fault& fault = *each.fault;
        if (!fault.conducts() || !isOn(m_board, *group.then, fault)) continue;
        const bool a = piece.holds(fault.a), b = fault.b >= 0 && piece.holds(fault.b);
        if (a == b) continue;
        const NetIndex far = a ? fault.b : fault.a;
        if (far < 0 || m_board.nets[far].ground) {
            siemens += 1 / each.ohms;
            continue;
        }
        if (!further) continue;
        const BoardCircuit::Piece& its = pieceOf(far, off);
        const int rail = m_circuit.railOf(far);
        double its_s = siemensOf(its, group, acting, off, behind, false);
        if (rail >= 0 && its.loadFactor > 0) {
            const double load = behind.rail == rail
                                    ? behind.ohms
                                    : m_circuit.rails()[static_cast<std::size_t>(rail)].usualOhms;
            its_s += 1 / (load * its.loadFactor);
        }
        if (its_s > 0) siemens += 1 / (each.ohms + 1 / its_s);
    }
    return siemens;
}

ReadingEvidence::Curve& ReadingEvidence::curveOf(const ReadingGroup& group,
                                                 const std::vector<PartIndex>& off) {
    std::string key;
    put(key, group.probed.place);
    put(key, group.probed.mode == MeterMode::Diode);
    put(key, group.probed.reversed);
    for (const PartIndex part : off)
        put(key, part);
    const auto [known, fresh] = m_curves.try_emplace(std::move(key));
    if (fresh) known->second.resize(Curve::steps);
    return known->second;
}

/// What the meter shows at the place when so much lies between it and ground beside its junctions: between
/// two steps of the curve, on the logarithm.
PredictedReading ReadingEvidence::at(double siemens, Curve& curve, const ReadingGroup& group,
                                     const std::vector<PartIndex>& off) const {
    const double step =
        std::clamp(Curve::perDecade * (std::log10(std::max(siemens, 1e-300)) - Curve::leastDecade), 0.0,
                   Curve::steps - 1.001);
    const auto below = static_cast<std::size_t>(step);
    const auto known = [&](std::size_t i) -> const PredictedReading& {
        if (!curve[i]) {
            constexpr double none_ohms = 1e12;
            const double its = std::pow(10.0, Curve::leastDecade + static_cast<double>(i) / Curve::perDecade);
            const Conductor conductor{group.probed.place, -1, 1 / its};
            const std::pair<int, double> load{group.rail, none_ohms};
            // A network that does not settle tells nothing: taken as open.
            curve[i] = m_circuit.predict(group.probed, {off, {&conductor, 1}, {&load, 1}})
                           .value_or(PredictedReading{true, 0, 0});
        }
        return *curve[i];
    };
    const PredictedReading &low = known(below), &high = known(below + 1);
    const double part = step - static_cast<double>(below);
    if (low.overRange || high.overRange || low.value <= 0 || high.value <= 0) return part < 0.5 ? low : high;
    return {false, low.value * std::pow(high.value / low.value, part),
            low.junctionShare + part * (high.junctionShare - low.junctionShare)};
}

/// What lies between the leads, and from each of them to ground. Junctions do not conduct at what a meter
/// puts on in ohms.
ReadingEvidence::PadToPad ReadingEvidence::padToPad(const ReadingGroup& group, std::span<const Acting> acting,
                                                    const std::vector<PartIndex>& off, Behind behind) {
    constexpr double link_s = 50;
    const BoardCircuit::Piece &place = pieceOf(group.probed.place, off),
                              &against = pieceOf(group.probed.against, off);
    PadToPad between;
    if (place.holds(group.probed.against)) between.direct_s = link_s;
    for (const Acting& each : acting) {
        const Fault& fault = *each.fault;
        if (!fault.through() || !isOn(m_board, *group.then, fault)) continue;
        if ((place.holds(fault.a) && against.holds(fault.b)) ||
            (place.holds(fault.b) && against.holds(fault.a)))
            between.direct_s += 1 / each.ohms;
    }
    // What lies between the leads themselves leads nowhere else.
    std::vector<Acting> others;
    for (const Acting& each : acting) {
        const Fault& fault = *each.fault;
        const bool betweenThem = fault.through() && ((place.holds(fault.a) && against.holds(fault.b)) ||
                                                     (place.holds(fault.b) && against.holds(fault.a)));
        if (!betweenThem) others.push_back(each);
    }
    between.place_s = siemensOf(place, group, others, off, behind, true);
    between.against_s = siemensOf(against, group, others, off, behind, true);
    const int rail = m_circuit.railOf(group.probed.against);
    // What no chip hangs on is as good as open.
    if (rail >= 0 && against.loadFactor > 0 &&
        m_circuit.rails()[static_cast<std::size_t>(rail)].consumers > 0) {
        const double load =
            behind.rail == rail ? behind.ohms : m_circuit.rails()[static_cast<std::size_t>(rail)].usualOhms;
        between.against_s += 1 / (load * against.loadFactor);
    }
    return between;
}

PredictedReading ReadingEvidence::PadToPad::shown(double load_s) const {
    const double one = place_s + load_s, other = against_s;
    const double siemens = direct_s + (one > 0 && other > 0 ? 1 / (1 / one + 1 / other) : 0);
    constexpr double most_ohms = 2e7;
    if (siemens < 1 / most_ohms) return {true, 0, 0};
    return {false, 1 / siemens, 0};
}

const std::vector<double>& ReadingEvidence::logsOf(std::size_t g, std::span<const Acting> acting,
                                                   Behind behind) {
    const ReadingGroup& group = m_groups[g];
    std::vector<PartIndex> off = group.off;
    for (const Acting& each : acting)
        if (each.fault->kind == FaultKind::Open && isOn(m_board, *group.then, *each.fault))
            off.insert(std::lower_bound(off.begin(), off.end(), each.fault->part), each.fault->part);
    const bool toGround = group.probed.against < 0;
    const BoardCircuit::Piece* piece = toGround ? &pieceOf(group.probed.place, off) : nullptr;
    const double siemens = toGround ? siemensOf(*piece, group, acting, off, behind, true) : 0;
    const bool network = !toGround && group.probed.mode == MeterMode::Diode;
    const std::vector<Conductor> conductors =
        network ? conductorsFor(group, acting, off) : std::vector<Conductor>();
    const PadToPad between = toGround || network ? PadToPad() : padToPad(group, acting, off, behind);
    std::string key;
    put(key, g);
    put(key, toGround ? -1 : behind.rail);
    put(key, toGround ? siemens : behind.ohms);
    put(key, between.direct_s);
    put(key, between.place_s);
    put(key, between.against_s);
    for (std::size_t i = 0; off != group.off && i < off.size(); ++i)
        put(key, off[i]);
    put(key, '|');
    for (const Conductor& c : conductors) {
        put(key, c.a);
        put(key, c.b);
        put(key, c.ohms);
    }
    const auto [known, fresh] = m_logs.try_emplace(std::move(key));
    if (!fresh) return known->second;

    const auto& levels = m_circuit.rails()[static_cast<std::size_t>(group.rail)].levels;
    std::vector<PredictedReading> predicted;
    if (toGround) {
        Curve& curve = curveOf(group, off);
        for (const LoadLevel& level : levels)
            predicted.push_back(
                at(siemens + (piece->loadFactor > 0 ? 1 / (level.ohms * piece->loadFactor) : 0), curve, group,
                   off));
    } else if (!network) {
        const double factor = pieceOf(group.probed.place, off).loadFactor;
        for (const LoadLevel& level : levels)
            predicted.push_back(between.shown(factor > 0 ? 1 / (level.ohms * factor) : 0));
    } else {
        std::vector<std::pair<int, double>> loads;
        if (behind.rail >= 0) loads.emplace_back(behind.rail, behind.ohms);
        predicted = m_circuit.predictLevels(group.probed, {off, conductors, loads});
    }
    known->second = logsOn(group, predicted);
    double& best = m_best[g];
    best = std::max(best, *std::max_element(known->second.begin(), known->second.end()));
    return known->second;
}

/// What lies behind a punched switch shows through it. Of two rails that are joined so, the one that reads
/// lower by itself is asked by itself, and the other given what that one said.
int ReadingEvidence::readFirst(int rail, std::span<const Acting> acting) const {
    const auto& rails = m_circuit.rails();
    for (const Acting& each : acting) {
        if (!each.fault->through()) continue;
        const int a = m_circuit.railOf(each.fault->a), b = m_circuit.railOf(each.fault->b);
        const int other = rail == a ? b : rail == b ? a : -1;
        if (other < 0 || other == rail) continue;
        const double own = rails[static_cast<std::size_t>(rail)].usualOhms,
                     its = rails[static_cast<std::size_t>(other)].usualOhms;
        if (its < own || (its == own && other < rail)) return other;
    }
    return -1;
}

std::vector<LoadLevel> ReadingEvidence::levelsGiven(int rail, std::span<const Acting> acting) {
    std::vector<LoadLevel> levels = m_circuit.rails()[static_cast<std::size_t>(rail)].levels;
    const auto prior = levelLogs(rail, acting);
    for (std::size_t i = 0; i < levels.size(); ++i)
        levels[i].share = std::exp(prior[i]);
    if (const auto groups = m_onRail.find(rail); groups != m_onRail.end())
        for (const std::size_t g : groups->second) {
            const auto& logs = logsOf(g, acting, {});
            for (std::size_t i = 0; i < levels.size(); ++i)
                levels[i].share *= std::exp(logs[i]);
        }
    double sum = 0;
    for (const LoadLevel& level : levels)
        sum += level.share;
    for (LoadLevel& level : levels)
        level.share /= sum;
    constexpr double least = 0.01;
    std::erase_if(levels, [](const LoadLevel& level) { return level.share < least; });
    return levels;
}

void ReadingEvidence::putActing(std::string& key, const std::vector<std::size_t>& groups,
                                std::span<const Acting> acting) const {
    for (const std::size_t i : groups)
        for (const Acting& each : acting)
            if (isOn(m_board, *m_groups[i].then, *each.fault)) {
                put(key, i);
                put(key, each.fault->a);
                put(key, each.fault->b);
                put(key, each.ohms);
                if (each.fault->kind == FaultKind::Open) put(key, each.fault->part);
            }
}

const std::vector<double>& ReadingEvidence::railCourse(int rail, std::span<const Acting> acting) {
    const auto& groups = m_onRail.at(rail);
    const int first = readFirst(rail, acting);
    std::string key;
    put(key, rail);
    putActing(key, groups, acting);
    if (const auto its = m_onRail.find(first); its != m_onRail.end()) putActing(key, its->second, acting);
    for (const int sibling : siblingsBefore(rail))
        for (const Acting& each : acting)
            if (touches(*each.fault, sibling)) put(key, sibling);
    const auto [known, fresh] = m_railCourses.try_emplace(std::move(key));
    if (!fresh) return known->second;
    const auto& levels = m_circuit.rails()[static_cast<std::size_t>(rail)].levels;
    std::vector<std::vector<double>> logs(groups.size()); // of each group, by load
    const std::vector<double> prior = levelLogs(rail, acting);
    const std::vector<LoadLevel> behind =
        first < 0 ? std::vector<LoadLevel>{{0, 1}} : levelsGiven(first, acting);
    for (const LoadLevel& its : behind) {
        std::vector<const std::vector<double>*> own;
        for (const std::size_t g : groups)
            own.push_back(&logsOf(g, acting, {first, its.ohms}));
        constexpr double least = -10;
        for (std::size_t i = 0; i < levels.size(); ++i) {
            if (prior[i] < least) continue;
            double log = prior[i] + std::log(its.share);
            for (std::size_t k = 0; k < groups.size(); ++k) {
                log += (*own[k])[i];
                logs[k].push_back(log);
            }
        }
    }
    for (const auto& each : logs)
        known->second.push_back(logSum(each));
    return known->second;
}

double ReadingEvidence::bestOn(std::span<const int> rails) const {
    double log = 0;
    for (const int rail : rails)
        if (const auto groups = m_onRail.find(rail); groups != m_onRail.end())
            for (const std::size_t g : groups->second)
                log += m_best[g];
    return log;
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

ReadingEvidence::Course ReadingEvidence::course(std::span<const Fault> faults) {
    if (!m_healthy) {
        auto healthy = std::make_shared<std::vector<double>>(m_groups.size(), 0.0);
        std::map<int, std::size_t> passed;
        double log = 0;
        for (std::size_t i = 0; i < m_groups.size(); ++i) {
            const auto& own = railCourse(m_groups[i].rail, {});
            const std::size_t k = passed[m_groups[i].rail]++;
            log += own[k] - (k > 0 ? own[k - 1] : 0);
            (*healthy)[i] = log;
        }
        m_healthy = std::move(healthy);
    }
    const std::vector<int> rails = touched(faults);
    if (rails.empty()) return m_healthy;
    if (const auto apart = separate(faults); apart.size() > 1) {
        // Rails of their own: each adds what it adds alone.
        auto sum = std::make_shared<std::vector<double>>(*m_healthy);
        for (const auto& some : apart) {
            const Course its = course(some);
            for (std::size_t g = 0; g < sum->size(); ++g)
                (*sum)[g] += (*its)[g] - (*m_healthy)[g];
        }
        return sum;
    }
    const auto kindOf = [this](const Fault& fault) {
        return fault.part < 0 ? PartClass::Other : m_board.parts[fault.part].partClass;
    };
    std::vector<std::size_t> groups;
    for (const int rail : rails)
        groups.insert(groups.end(), m_onRail.at(rail).begin(), m_onRail.at(rail).end());
    std::sort(groups.begin(), groups.end());
    std::string key;
    for (const Fault& fault : faults) {
        put(key, fault.kind);
        put(key, fault.a);
        put(key, fault.b);
        put(key, reinterpret_cast<std::uintptr_t>(&shortLevels(kindOf(fault))));
        if (fault.kind == FaultKind::Open) put(key, fault.part);
        for (const std::size_t i : groups)
            if (isOn(m_board, *m_groups[i].then, fault)) put(key, i);
    }
    const auto [known, fresh] = m_courses.try_emplace(std::move(key));
    if (!fresh) return known->second;

    // Over how much each of them conducts, all together.
    std::vector<Acting> acting;
    for (const Fault& fault : faults)
        acting.push_back({&fault, 0});
    std::vector<std::vector<double>> logs(groups.size());
    const auto weighLevels = [&](double share) {
        std::map<int, const std::vector<double>*> courses;
        for (const int rail : rails)
            courses[rail] = &railCourse(rail, acting);
        std::map<int, std::size_t> passed;
        double log = share;
        for (std::size_t g = 0; g < groups.size(); ++g) {
            const int rail = m_groups[groups[g]].rail;
            const auto& own = *courses[rail];
            const std::size_t k = passed[rail]++;
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

    // The other rails go on as they would on a sound board.
    auto course = std::make_shared<std::vector<double>>(m_groups.size(), 0.0);
    double log = 0, before = 0;
    for (std::size_t i = 0, g = 0; i < m_groups.size(); ++i) {
        if (g < groups.size() && groups[g] == i) {
            const double now = logSum(logs[g++]);
            log += now - before;
            before = now;
        } else {
            log += (*m_healthy)[i] - (i > 0 ? (*m_healthy)[i - 1] : 0);
        }
        (*course)[i] = log;
    }
    known->second = course;
    return course;
}

ReadingEvidence::Course ReadingEvidence::unknownCourse(std::span<const Fault> faults) {
    constexpr double touched = 0.1; // of the places (judgement)
    const Course known = course(faults);
    auto unknown = std::make_shared<std::vector<double>>();
    double log = 0;
    for (std::size_t g = 0; g < m_groups.size(); ++g) {
        double stray = 0;
        for (const Reading& reading : m_groups[g].readings)
            stray += std::log(strayDensity(reading));
        stray /= static_cast<double>(m_groups[g].readings.size());
        const double own = (*known)[g] - (g > 0 ? (*known)[g - 1] : 0);
        log += logSum({std::log(1 - touched) + own, std::log(touched) + stray});
        unknown->push_back(log);
    }
    return unknown;
}

} // namespace ustor
