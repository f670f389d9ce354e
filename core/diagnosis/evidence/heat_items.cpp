#include "diagnosis/evidence/heat_items.h"

#include "diagnosis/heat_evidence.h"
#include "diagnosis/hypothesis/presence.h"
#include "rail/stretch.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <memory>
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
constexpr VerdictShares facing{0.74, 0.15, 0.06, 0.17}, otherSide{1, 0.4, 0.13, 0.35},
    inLaminate{0.25, 0.1, 0.3, 0.35}, noPower{0.18, 0.04, 0.08, 0.7}, ownLoad{0.5, 0.2, 0.15, 0.15};

/// All that a look is judged by, kept for as long as somebody asks.
struct Look {
    HeatFound found;
    std::shared_ptr<const PartsOff> then;
    int rail = -1; ///< that was injected into; -1: not said
    std::vector<const Part*> links;
    /// Chips that warm by themselves: those on a rail that reads low, where no fault makes it do so.
    std::vector<const Part*> consumers;
    double warm = 0; ///< how likely the rail is such a one
    /// By part that was lifted since: how much of the current it can have carried, for the rail read nearly
    /// the same without it.
    std::map<PartIndex, double> mostCarried;
    double area_mm2 = 1;
};

bool hadPower(const Look& look, const Fault& fault, const Board& board, const BoardCircuit& circuit) {
    if (!fault.conducts()) return false;
    if (look.rail >= 0 && look.rail != circuit.railOf(fault.a) && look.rail != circuit.railOf(fault.b))
        return false;
    return isOn(board, *look.then, fault);
}

/// Nothing that is wrong had power: what is seen comes from nowhere, or from chips that take their current.
double withoutFault(const Look& look) {
    const HeatVerdict verdict = look.found.verdict;
    if (look.consumers.empty()) return noPower.of(verdict);
    double density = 0;
    for (const Part* chip : look.consumers)
        density += (look.found.spots.empty()
                        ? 1
                        : heatDensity_per_mm2(look.found, *chip, look.links, look.area_mm2) * look.area_mm2) /
                   static_cast<double>(look.consumers.size());
    return look.warm * ownLoad.of(verdict) * density + (1 - look.warm) * noPower.of(verdict);
}

double logLikelihoodOf(const Look& look, std::span<const Fault> faults, const Board& board,
                       const BoardCircuit& circuit) {
    double best = 0;
    bool any = false;
    for (const Fault& fault : faults) {
        if (!hadPower(look, fault, board, circuit)) continue;
        any = true;
        if (fault.part < 0) {
            best = std::max(best, inLaminate.of(look.found.verdict));
            continue;
        }
        const Part& part = board.parts[fault.part];
        const double density =
            look.found.spots.empty()
                ? 1
                : heatDensity_per_mm2(look.found, part, look.links, look.area_mm2) * look.area_mm2;
        const double seen =
            (part.side == look.found.side ? facing : otherSide).of(look.found.verdict) * density;
        const auto carried = look.mostCarried.find(fault.part);
        best = std::max(best, carried == look.mostCarried.end()
                                  ? seen
                                  : carried->second * seen + (1 - carried->second) * withoutFault(look));
    }
    return std::log(std::max(1e-9, any ? best : withoutFault(look)));
}

/// How likely the rail takes visible power by itself: by the newest reading before the look, else by its
/// kind.
double warmsByItself(const CaseState& state, const BoardCircuit& circuit, const CaseState::TakenHeat& heat,
                     int rail) {
    constexpr double low_ohms = 200, low_v = 0.2;
    for (auto r = state.readings.rbegin(); r != state.readings.rend(); ++r) {
        const Reading& reading = r->taken.reading;
        if (r->fact > heat.fact || circuit.railOf(r->net) != rail || !r->taken.against.empty()) continue;
        if (reading.mode == MeterMode::Volts) continue;
        constexpr double sure = 0.95;
        const bool low = reading.state == ReadingState::Value &&
                         reading.value < (reading.mode == MeterMode::Diode ? low_v : low_ohms);
        return low ? sure : 1 - sure;
    }
    double share = 0;
    for (const LoadLevel& level : circuit.rails()[static_cast<std::size_t>(rail)].levels)
        if (level.ohms < low_ohms) share += level.share;
    return share;
}

/// What each part that was lifted carried at most: the rail's last ohms with it against those without it, as
/// long as nothing else was lifted or put on. Contacts and digits count for the part; of several readings the
/// highest does, and none of them is beyond doubt.
std::map<PartIndex, double> mostCarried(const CaseState& state, const BoardCircuit& circuit, int rail) {
    constexpr double contact_ohms = 0.2, slip = 0.05;
    struct Lift {
        double before = 0; ///< ohms
        std::set<std::string> off;
        double carried = slip;
    };
    std::map<PartIndex, Lift> lifts;
    const CaseState::TakenReading* before = nullptr;
    for (const auto& r : state.readings) {
        const Reading& reading = r.taken.reading;
        const bool counts = circuit.railOf(r.net) == rail && r.taken.against.empty() && !r.bySupply &&
                            reading.mode == MeterMode::Ohms && reading.state == ReadingState::Value;
        if (!counts) continue;
        if (before)
            for (const std::string& name : r.then->off)
                if (const PartIndex part = state.board.findPart(name);
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
    std::map<PartIndex, double> most;
    for (const auto& [part, lift] : lifts)
        most[part] = lift.carried;
    return most;
}

/// Of the looks at one side, with the same parts on the board and into the same rail, the clearest. Stills
/// only where no injection was watched.
std::vector<const CaseState::TakenHeat*> clearestLooks(const CaseState& state) {
    const auto strength = [](const HeatFound& h) { return h.spots.empty() ? 0.0 : h.spots.front().snr; };
    std::vector<const CaseState::TakenHeat*> clearest;
    for (const auto& heat : state.heat.empty() ? state.stills : state.heat) {
        const auto same =
            std::find_if(clearest.begin(), clearest.end(), [&](const CaseState::TakenHeat* other) {
                return other->found.side == heat.found.side && other->found.net == heat.found.net &&
                       *other->then == *heat.then;
            });
        if (same == clearest.end())
            clearest.push_back(&heat);
        else if (strength(heat.found) >= strength((*same)->found))
            *same = &heat;
    }
    return clearest;
}

} // namespace

std::vector<EvidenceItem> heatEvidence(const CaseState& state, const BoardCircuit& circuit) {
    std::vector<EvidenceItem> items;
    const BoardBox box = state.board.box();
    for (const CaseState::TakenHeat* best : clearestLooks(state)) {
        auto look = std::make_shared<Look>();
        look->found = best->found;
        look->then = best->then;
        const NetIndex net = state.board.findNet(best->found.net);
        look->rail = net >= 0 ? circuit.railOf(net) : -1;
        look->area_mm2 = std::max(1.0, box.width_mm() * box.height_mm());
        for (const Part& part : state.board.parts)
            if (isLink(part) &&
                (look->rail < 0 || std::any_of(part.pads.begin(), part.pads.end(), [&](const Pad& pad) {
                     return circuit.railOf(pad.net) == look->rail;
                 })))
                look->links.push_back(&part);
        if (look->rail >= 0) {
            look->warm = warmsByItself(state, circuit, *best, look->rail);
            look->mostCarried = mostCarried(state, circuit, look->rail);
        }
        if (look->rail >= 0)
            for (const NetIndex each : circuit.rails()[static_cast<std::size_t>(look->rail)].nets)
                for (const PartIndex p : state.netParts->on(each)) {
                    const Part& part = state.board.parts[p];
                    const bool chip = part.partClass == PartClass::Ic ||
                                      part.partClass == PartClass::Processor ||
                                      part.partClass == PartClass::Regulator;
                    if (chip && std::find(look->consumers.begin(), look->consumers.end(), &part) ==
                                    look->consumers.end())
                        look->consumers.push_back(&part);
                }
        items.push_back({best->fact, say("heat: {finding}", {{"finding", sentenceOf(best->found)}}),
                         [&state, &circuit, look](std::span<const Fault> faults) {
                             return logLikelihoodOf(*look, faults, state.board, circuit);
                         }});
    }
    return items;
}

} // namespace ustor
