#include "diagnosis/evidence/heat_look.h"

#include "board/chips.h"
#include "diagnosis/evidence/supply_items.h"
#include "diagnosis/heat_evidence.h"
#include "diagnosis/hypothesis/presence.h"
#include "rail/stretch.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace ustor {
namespace {

/// How often a look ends in each verdict (common practice: one in five shows nothing at the first try). That
/// the side and the verdict agree is the density's part.
struct VerdictShares {
    double point, farSide, spread, none;
    double of(HeatVerdict verdict) const {
        switch (verdict) {
        case HeatVerdict::Point:
            return point;
        case HeatVerdict::FarSide:
            return farSide;
        case HeatVerdict::Spread:
            return spread;
        case HeatVerdict::None:
            return none;
        }
        return none;
    }
};
constexpr VerdictShares facing{0.74, 0.15, 0.06, 0.17}, turnedAway{1, 0.4, 0.13, 0.35},
    inLaminate{0.25, 0.1, 0.3, 0.35}, noPower{0.18, 0.04, 0.08, 0.7}, ownLoad{0.5, 0.2, 0.15, 0.15};

/// Rails that read below that take visible power by themselves.
constexpr double low_ohms = 200, low_v = 0.2;

} // namespace

HeatLook::HeatLook(const CaseState& state, const BoardCircuit& circuit, const CaseState::TakenHeat& heat)
    : m_state(state), m_board(state.board), m_circuit(circuit), m_found(heat.found), m_fact(heat.fact),
      m_then(heat.then), m_volts(injectedVolts(state, heat)) {
    const NetIndex net = state.board.findNet(heat.found.net);
    m_rail = net >= 0 ? circuit.railOf(net) : -1;
    const BoardBox box = state.board.box();
    m_area_mm2 = std::max(1.0, box.width_mm() * box.height_mm());
    findLinks();
    m_without = noPower.of(m_found.verdict);
    if (m_rail < 0) return;
    findBodyDiodes();
    findMostCarried();
    m_without = chipsOf(m_rail, warmsByItself(m_rail));
}

void HeatLook::findLinks() {
    for (const Part& part : m_board.parts)
        if (isLink(part) &&
            (m_rail < 0 || std::any_of(part.pads.begin(), part.pads.end(),
                                       [&](const Pad& pad) { return m_circuit.railOf(pad.net) == m_rail; })))
            m_links.push_back(&part);
}

void HeatLook::findBodyDiodes() {
    for (const Branch& branch : m_circuit.branches()) {
        const int to = m_circuit.railOf(branch.b);
        const bool leadsAway =
            branch.ohms == 0 && m_circuit.railOf(branch.a) == m_rail && to >= 0 && to != m_rail;
        if (leadsAway && !m_then->off.contains(m_board.parts[branch.part].designator))
            m_bodyDiodes.push_back({branch.part, to});
    }
}

/// What each part that was lifted carried at most: the rail's last ohms with it against those without it, as
/// long as nothing else was lifted or put on. Contacts and digits count for the part; of several readings the
/// highest does, and none of them is beyond doubt.
void HeatLook::findMostCarried() {
    constexpr double contact_ohms = 0.2, slip = 0.05;
    struct Lift {
        double before = 0; ///< ohms
        std::set<std::string> off;
        double carried = slip;
    };
    std::map<PartIndex, Lift> lifts;
    const CaseState::TakenReading* before = nullptr;
    for (const auto& r : m_state.readings) {
        const Reading& reading = r.taken.reading;
        const bool counts = m_circuit.railOf(r.net) == m_rail && r.taken.against.empty() && !r.bySupply &&
                            reading.mode == MeterMode::Ohms && reading.state == ReadingState::Value;
        if (!counts) continue;
        if (before)
            for (const std::string& name : r.then->off)
                if (const PartIndex part = partNamed(m_state, name);
                    part >= 0 && !before->then->off.contains(name))
                    lifts[part] = {before->taken.reading.value, r.then->off, slip};
        for (auto& [part, lift] : lifts)
            if (lift.off == r.then->off) {
                const double low = std::max(0.0, lift.before - contact_ohms),
                             high = reading.value + contact_ohms;
                lift.carried = std::max(lift.carried, 1 - low / high);
            }
        before = &r;
    }
    for (const auto& [part, lift] : lifts)
        m_mostCarried[part] = lift.carried;
}

/// The newest reading of a rail before the look, ohms; what such rails usually read where there is none.
double HeatLook::readOhms(int rail) const {
    constexpr double open_ohms = 1e7, least_ohms = 0.01;
    for (auto r = m_state.readings.rbegin(); r != m_state.readings.rend(); ++r) {
        if (r->fact > m_fact || m_circuit.railOf(r->net) != rail || !r->taken.against.empty()) continue;
        const Reading& reading = r->taken.reading;
        if (reading.mode != MeterMode::Ohms) continue;
        return reading.state == ReadingState::Value ? std::max(reading.value, least_ohms) : open_ohms;
    }
    return m_circuit.rails()[static_cast<std::size_t>(rail)].usualOhms;
}

/// How likely the rail takes visible power by itself: by the newest reading before the look, else by its
/// kind.
double HeatLook::warmsByItself(int rail) const {
    for (auto r = m_state.readings.rbegin(); r != m_state.readings.rend(); ++r) {
        const Reading& reading = r->taken.reading;
        if (r->fact > m_fact || m_circuit.railOf(r->net) != rail || !r->taken.against.empty()) continue;
        if (reading.mode == MeterMode::Volts) continue;
        constexpr double sure = 0.95;
        const bool low = reading.state == ReadingState::Value &&
                         reading.value < (reading.mode == MeterMode::Diode ? low_v : low_ohms);
        return low ? sure : 1 - sure;
    }
    double share = 0;
    for (const LoadLevel& level : m_circuit.rails()[static_cast<std::size_t>(rail)].levels)
        if (level.ohms < low_ohms) share += level.share;
    return share;
}

double HeatLook::densityAt(const Part& part) const {
    return m_found.spots.empty() ? 1 : heatDensity_per_mm2(m_found, part, m_links, m_area_mm2) * m_area_mm2;
}

/// The heat arises in this part.
double HeatLook::seenAt(PartIndex part) const {
    const Part& its = m_board.parts[static_cast<std::size_t>(part)];
    return (its.side == m_found.side ? facing : turnedAway).of(m_found.verdict) * densityAt(its);
}

/// The current goes into the chips of a rail, which it warms with the given likelihood.
double HeatLook::chipsOf(int rail, double warm) const {
    const HeatVerdict verdict = m_found.verdict;
    std::set<PartIndex> chips;
    if (rail >= 0)
        for (const NetIndex net : m_circuit.rails()[static_cast<std::size_t>(rail)].nets)
            for (const PartIndex p : m_state.netParts->on(net))
                if (isChip(m_board.parts[p])) chips.insert(p);
    if (chips.empty()) return noPower.of(verdict);
    double density = 0;
    for (const PartIndex chip : chips)
        density += densityAt(m_board.parts[chip]) / static_cast<double>(chips.size());
    return warm * ownLoad.of(verdict) * density + (1 - warm) * noPower.of(verdict);
}

/// A current into the rail goes through the fault.
bool HeatLook::reaches(const Fault& fault) const {
    if (!fault.conducts() || !isOn(m_board, *m_then, fault)) return false;
    return m_rail < 0 || m_rail == m_circuit.railOf(fault.a) || m_rail == m_circuit.railOf(fault.b);
}

/// Through a punched switch and on into a short or the chips behind it: each gets its share of the power, for
/// the same current goes through both.
double HeatLook::behind(const Fault& through, std::span<const Fault> faults) const {
    const int a = m_circuit.railOf(through.a), other = a == m_rail ? m_circuit.railOf(through.b) : a;
    if (m_rail < 0 || other < 0 || other == m_rail) return seenAt(through.part);
    const auto end = std::find_if(faults.begin(), faults.end(), [&](const Fault& fault) {
        return !(fault == through) && fault.conducts() && !fault.through() && fault.part >= 0 &&
               m_circuit.railOf(fault.a) == other && isOn(m_board, *m_then, fault);
    });
    const auto classOf = [&](PartIndex part) {
        return m_board.parts[static_cast<std::size_t>(part)].partClass;
    };
    // What this rail takes by itself does not go through the switch: of a core that is nearly all. What the
    // other one was read at counts only where it is more than usual, for this one was read through the
    // switch.
    const auto usual = [&](int rail) { return m_circuit.rails()[static_cast<std::size_t>(rail)].usualOhms; };
    const double here_ohms = usual(m_rail), load_ohms = std::max(usual(other), readOhms(other));
    double own = 0, far = 0; // shares of the power
    const auto take = [&](double share, double switch_ohms, double end_ohms) {
        const double way_ohms = switch_ohms + end_ohms,
                     taken = here_ohms / (here_ohms + way_ohms); // of two beside each other
        own += share * taken * switch_ohms / way_ohms;
        far += share * taken * end_ohms / way_ohms;
    };
    for (const ShortLevel& level : shortLevels(classOf(through.part))) {
        if (end == faults.end()) {
            take(level.share, level.ohms, load_ohms);
            continue;
        }
        for (const ShortLevel& its : shortLevels(classOf(end->part)))
            take(level.share * its.share, level.ohms, its.ohms);
    }
    const double atEnd = end == faults.end() ? chipsOf(other, warmsByItself(other)) : seenAt(end->part);
    return own * seenAt(through.part) + far * atEnd + (1 - own - far) * m_without;
}

std::optional<double> HeatLook::before(const Fault& fault) const {
    if (m_rail < 0 || fault.through() || !fault.conducts() || fault.part < 0) return std::nullopt;
    if (!isOn(m_board, *m_then, fault)) return std::nullopt;
    const int rail = m_circuit.railOf(fault.a);
    const auto way = std::find_if(m_bodyDiodes.begin(), m_bodyDiodes.end(),
                                  [rail](const BodyDiode& diode) { return diode.to == rail; });
    if (way == m_bodyDiodes.end()) return std::nullopt;
    // Half a volt of the one that is put on stays in the diode, a hard short takes little of the rest.
    constexpr double inDiode = 0.6, inShort = 0.15;
    return inDiode * seenAt(way->part) + inShort * seenAt(fault.part) + (1 - inDiode - inShort) * m_without;
}

/// The rail's own load takes its share of the power: of a core much, of all others next to nothing.
double HeatLook::besideOwnLoad(const Fault& fault) const {
    const int rail = m_circuit.railOf(fault.a);
    if (rail < 0) return seenAt(fault.part);
    const double load_ohms = m_circuit.rails()[static_cast<std::size_t>(rail)].usualOhms;
    const double read_ohms = readOhms(rail);
    double taken = 0;
    if (read_ohms < load_ohms) // of two beside each other, together what was read
        taken = 1 - read_ohms / load_ohms;
    else
        for (const ShortLevel& level :
             shortLevels(m_board.parts[static_cast<std::size_t>(fault.part)].partClass))
            taken += level.share * load_ohms / (load_ohms + level.ohms);
    return taken * seenAt(fault.part) + (1 - taken) * m_without;
}

double HeatLook::ofFault(const Fault& fault, std::span<const Fault> faults) const {
    if (fault.part < 0) return inLaminate.of(m_found.verdict);
    const double seen = fault.through() ? behind(fault, faults) : besideOwnLoad(fault);
    const auto carried = m_mostCarried.find(fault.part);
    if (carried == m_mostCarried.end()) return seen;
    return carried->second * seen + (1 - carried->second) * m_without;
}

double HeatLook::ofBreakdown(const Fault& fault) const {
    const int rail = m_circuit.railOf(fault.a);
    // Nothing was injected and no rail is named: the board had its own power, a flare with each try of a
    // converter.
    const bool ownPower = !m_volts && m_rail < 0;
    if (!isOn(m_board, *m_then, fault) || (m_rail >= 0 && rail != m_rail) || !(m_volts || ownPower))
        return m_without;
    constexpr double atWork = 0.9;
    const double conducts = ownPower ? atWork : conductsAt(m_board, fault, *m_volts);
    return conducts * seenAt(fault.part) + (1 - conducts) * m_without;
}

double HeatLook::logLikelihood(std::span<const Fault> faults) const {
    double best = 0;
    bool any = false;
    for (const Fault& fault : faults) {
        if (fault.kind == FaultKind::Breakdown) {
            best = std::max(best, ofBreakdown(fault));
            any = true;
        } else if (reaches(fault)) {
            best = std::max(best, ofFault(fault, faults));
            any = true;
        } else if (const auto its = before(fault)) {
            best = std::max(best, *its);
            any = true;
        }
    }
    return std::log(std::max(1e-9, any ? best : m_without));
}

} // namespace ustor
