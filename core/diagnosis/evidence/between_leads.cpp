#include "diagnosis/evidence/between_leads.h"

#include "rail/stretch.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace ustor {

BetweenLeads::Setting BetweenLeads::settingOf(const ReadingGroup& group, std::span<const Acting> acting,
                                              LoadBehind behind, const std::vector<double>& readLoads) {
    Setting setting;
    setting.behind = behind;
    setting.off = group.off;
    for (const Acting& each : acting)
        if (each.fault->kind == FaultKind::Open)
            setting.off.insert(std::lower_bound(setting.off.begin(), setting.off.end(), each.fault->part),
                               each.fault->part);
    const bool toGround = group.probed.against < 0;
    if (toGround) {
        setting.siemens =
            siemensOf(pieceOf(group.probed.place, setting.off), setting.off, acting, behind, readLoads, true);
        put(setting.key, setting.siemens);
    } else if (group.probed.mode == MeterMode::Diode) {
        setting.conductors = conductorsFor(group, acting, setting.off);
        put(setting.key, behind.rail);
        put(setting.key, behind.ohms);
        for (const Conductor& c : setting.conductors) {
            put(setting.key, c.a);
            put(setting.key, c.b);
            put(setting.key, c.ohms);
        }
        put(setting.key, '|');
    } else {
        setting.between = padToPad(group, acting, setting, readLoads);
        put(setting.key, setting.between.direct_s);
        put(setting.key, setting.between.place_s);
        put(setting.key, setting.between.against_s);
    }
    if (setting.off != group.off)
        for (const PartIndex part : setting.off)
            put(setting.key, part);
    return setting;
}

double BetweenLeads::siemensToGround(const ReadingGroup& group, std::span<const Acting> acting,
                                     LoadBehind behind, const std::vector<double>& readLoads) {
    const auto [known, fresh] = m_pieceThen.try_emplace({group.then.get(), group.probed.place});
    if (fresh) known->second = &pieceOf(group.probed.place, group.off);
    return siemensOf(*known->second, group.off, acting, behind, readLoads, true);
}

std::vector<PredictedReading> BetweenLeads::shown(const ReadingGroup& group, const Setting& setting) {
    const auto& levels = m_circuit.rails()[static_cast<std::size_t>(group.rail)].levels;
    std::vector<PredictedReading> predicted;
    predicted.reserve(levels.size());
    const double factor = pieceOf(group.probed.place, setting.off).loadFactor;
    const auto load_s = [factor](const LoadLevel& level) {
        return factor > 0 ? 1 / (level.ohms * factor) : 0;
    };
    if (group.probed.against < 0) {
        Curve& curve = curveOf(group, setting.off);
        for (const LoadLevel& level : levels)
            predicted.push_back(at(setting.siemens + load_s(level), curve, group, setting.off));
    } else if (group.probed.mode != MeterMode::Diode) {
        for (const LoadLevel& level : levels)
            predicted.push_back(setting.between.shown(load_s(level)));
    } else {
        std::vector<std::pair<int, double>> loads;
        if (setting.behind.rail >= 0) loads.emplace_back(setting.behind.rail, setting.behind.ohms);
        predicted = m_circuit.predictLevels(group.probed, {setting.off, setting.conductors, loads});
    }
    return predicted;
}

/// What acts on a reading between two rails, told as simply as its doubt allows: where no link of a rail is
/// off, a few milliohms of links are nothing beside a probe's contact, and a short is taken to lie where it
/// is read; shorts side by side are one; ohms are told in steps. So many faults share one answer of the
/// circuit.
std::vector<Conductor> BetweenLeads::conductorsFor(const ReadingGroup& group, std::span<const Acting> acting,
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
        if (!each.fault->conducts()) continue;
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

const BoardCircuit::Piece& BetweenLeads::pieceOf(NetIndex net, const std::vector<PartIndex>& off) {
    std::string key;
    put(key, net);
    for (const PartIndex part : off)
        if (isLink(m_board.parts[part])) put(key, part);
    const auto [known, fresh] = m_pieces.try_emplace(std::move(key));
    if (fresh) known->second = m_circuit.pieceOf(net, off);
    return known->second;
}

/// What a rail beside the place's own takes by itself: what it is asked at, else what it was read at where no
/// fault touches it, else what such rails usually take.
double BetweenLeads::loadOf(int rail, std::span<const Acting> acting, LoadBehind behind,
                            const std::vector<double>& readLoads) const {
    if (behind.rail == rail) return behind.ohms;
    const double read = readLoads.empty() ? 0 : readLoads[static_cast<std::size_t>(rail)];
    const bool touched = std::any_of(acting.begin(), acting.end(), [&](const Acting& each) {
        return m_circuit.railOf(each.fault->a) == rail || m_circuit.railOf(each.fault->b) == rail;
    });
    return read > 0 && !touched ? read : m_circuit.rails()[static_cast<std::size_t>(rail)].usualOhms;
}

/// Siemens that the faults lay between the piece and ground: shorts as they are, what hangs behind a punched
/// switch through it. A few milliohms of links are nothing beside a probe's contact.
double BetweenLeads::siemensOf(const BoardCircuit::Piece& piece, const std::vector<PartIndex>& off,
                               std::span<const Acting> acting, LoadBehind behind,
                               const std::vector<double>& readLoads, bool further) {
    double siemens = 0;
    for (const Acting& each : acting) {
        const Fault& fault = *each.fault;
        if (!fault.conducts()) continue;
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
        double its_s = siemensOf(its, off, acting, behind, readLoads, false);
        if (rail >= 0 && its.loadFactor > 0)
            its_s += 1 / (loadOf(rail, acting, behind, readLoads) * its.loadFactor);
        if (its_s > 0) siemens += 1 / (each.ohms + 1 / its_s);
    }
    return siemens;
}

BetweenLeads::Curve& BetweenLeads::curveOf(const ReadingGroup& group, const std::vector<PartIndex>& off) {
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
PredictedReading BetweenLeads::at(double siemens, Curve& curve, const ReadingGroup& group,
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
            curve[i] = m_circuit.predict(group.probed, {off, {&conductor, 1}, {&load, 1}, true})
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
BetweenLeads::PadToPad BetweenLeads::padToPad(const ReadingGroup& group, std::span<const Acting> acting,
                                              const Setting& setting, const std::vector<double>& readLoads) {
    constexpr double link_s = 50;
    const BoardCircuit::Piece &place = pieceOf(group.probed.place, setting.off),
                              &against = pieceOf(group.probed.against, setting.off);
    PadToPad between;
    if (place.holds(group.probed.against)) between.direct_s = link_s;
    // What lies between the leads themselves leads nowhere else.
    std::vector<Acting> others;
    for (const Acting& each : acting) {
        const Fault& fault = *each.fault;
        const bool betweenThem = fault.through() && ((place.holds(fault.a) && against.holds(fault.b)) ||
                                                     (place.holds(fault.b) && against.holds(fault.a)));
        if (betweenThem)
            between.direct_s += 1 / each.ohms;
        else
            others.push_back(each);
    }
    between.place_s = siemensOf(place, setting.off, others, setting.behind, readLoads, true);
    between.against_s = siemensOf(against, setting.off, others, setting.behind, readLoads, true);
    const int rail = m_circuit.railOf(group.probed.against);
    if (rail < 0 || against.loadFactor <= 0) return between;
    // What no chip hangs on is as good as open, until it was read.
    const bool read = setting.behind.rail == rail || (!readLoads.empty() && readLoads[rail] > 0);
    if (read || m_circuit.rails()[static_cast<std::size_t>(rail)].consumers > 0)
        between.against_s += 1 / (loadOf(rail, acting, setting.behind, readLoads) * against.loadFactor);
    return between;
}

PredictedReading BetweenLeads::PadToPad::shown(double load_s) const {
    const double one = place_s + load_s, other = against_s;
    const double siemens = direct_s + (one > 0 && other > 0 ? 1 / (1 / one + 1 / other) : 0);
    constexpr double most_ohms = 2e7;
    if (siemens < 1 / most_ohms) return {true, 0, 0};
    return {false, 1 / siemens, 0};
}

} // namespace ustor
