#include "diagnosis/evidence/sense_items.h"

#include "diagnosis/circuit/board_circuit.h"
#include "diagnosis/hypothesis/presence.h"
#include "rail/stretch.h"

#include <algorithm>
#include <cmath>

namespace ustor {
namespace {

/// How often each way of sensing shows the culprit, how often nothing, and within how many millimetres it may
/// take a neighbour for it (common practice).
struct SenseShares {
    double culprit, nothing, near_mm;
};
SenseShares sharesOf(HeatSense by) {
    switch (by) {
    case HeatSense::Alcohol:
        return {0.65, 0.25, 3};
    case HeatSense::Frost:
        return {0.65, 0.2, 3};
    case HeatSense::Finger:
        return {0.45, 0.35, 6};
    case HeatSense::Picture:
        return {0.55, 0.2, 4};
    case HeatSense::Flare:
        return {0.5, 0.3, 4};
    case HeatSense::Idle:
        return {0.5, 0.5, 6};
    }
    return {0.5, 0.3, 4};
}
/// An innocent part in the path of the current, and any other (one of so many on a board).
constexpr double inPath = 0.08, stray = 0.004;

std::optional<double> apart_mm(const Part& a, const Part& b) {
    if (a.side != b.side) return std::nullopt;
    return std::hypot(a.centre.x_mm - b.centre.x_mm, a.centre.y_mm - b.centre.y_mm);
}

struct Sensed {
    HeatSense by;
    PartIndex part; ///< -1: nothing showed
    int rail;       ///< that current flowed into; -1: power of its own, or not said
    std::shared_ptr<const PartsOff> then;
};

bool onRail(const Board& board, const BoardCircuit& circuit, PartIndex part, int rail) {
    const auto& pads = board.parts[static_cast<std::size_t>(part)].pads;
    return rail >= 0 && std::any_of(pads.begin(), pads.end(),
                                    [&](const Pad& pad) { return circuit.railOf(pad.net) == rail; });
}

/// Of one fault: how likely it shows so.
double shareUnder(const Sensed& s, const Fault& fault, const Board& board, const BoardCircuit& circuit) {
    const SenseShares shares = sharesOf(s.by);
    const int a = circuit.railOf(fault.a), b = circuit.railOf(fault.b);
    const bool powered = fault.conductsUnderPower() && isOn(board, *s.then, fault) &&
                         (s.rail < 0 || a == s.rail || b == s.rail);
    const bool busyChip =
        s.by == HeatSense::Idle && fault.kind == FaultKind::Dead && isOn(board, *s.then, fault);
    constexpr double nothingWarm = 0.85;
    if (s.part < 0) return powered || busyChip ? shares.nothing : nothingWarm;
    // Seldom is a sound chip hot that has nothing to do.
    const double thisOne = s.by == HeatSense::Idle ? 0.03 : 0.1;
    if (!powered && !busyChip) return (1 - nothingWarm) * thisOne;
    if (fault.part == s.part) return shares.culprit;
    const Part& shown = board.parts[static_cast<std::size_t>(s.part)];
    double share = stray;
    if (fault.part >= 0)
        if (const auto mm = apart_mm(shown, board.parts[static_cast<std::size_t>(fault.part)]))
            share += 0.3 * shares.culprit * std::exp(-*mm / shares.near_mm);
    // A short in the laminate, or of something that no file lists, lies beside any part of its rail.
    if (fault.part < 0 && onRail(board, circuit, s.part, a)) share += 0.04;
    const bool carries = isLink(shown) || shown.partClass == PartClass::Mosfet ||
                         shown.partClass == PartClass::Switch || shown.partClass == PartClass::Regulator;
    if (carries && (onRail(board, circuit, s.part, a) || onRail(board, circuit, s.part, b))) share += inPath;
    return share;
}

/// The part of a place; -1 for a net.
PartIndex partAt(const Board& board, const std::string& place) {
    if (const PartIndex part = board.findPart(place); part >= 0) return part;
    return board.findPart(place.substr(0, place.rfind('.')));
}

} // namespace

std::vector<EvidenceItem> sensedEvidence(const CaseState& state, const BoardCircuit& circuit) {
    std::vector<EvidenceItem> items;
    for (const auto& [fact, body, then] : state.sensed) {
        const NetIndex net = body.net.empty() ? -1 : state.board.findNet(body.net);
        const Sensed sensed{body.by, body.part.empty() ? -1 : state.board.findPart(body.part),
                            net >= 0 ? circuit.railOf(net) : -1, then};
        if (!body.part.empty() && sensed.part < 0) continue;
        items.push_back(
            {fact, sentenceOf(FactBody(body)), [&state, &circuit, sensed](std::span<const Fault> faults) {
                 double best = -1;
                 for (const Fault& fault : faults) {
                     const double own = shareUnder(sensed, fault, state.board, circuit);
                     // Nothing warm has to hold for all of them, a warm part for one.
                     best = best < 0 ? own : sensed.part < 0 ? std::min(best, own) : std::max(best, own);
                 }
                 return std::log(best < 0 ? (sensed.part < 0 ? 0.85 : 0.015) : best);
             }});
    }
    return items;
}

std::vector<EvidenceItem> burstEvidence(const CaseState& state) {
    std::vector<EvidenceItem> items;
    for (const auto& [fact, body, then] : state.bursts) {
        const PartIndex part = partAt(state.board, body.place);
        if (part < 0) continue;
        items.push_back(
            {fact, sentenceOf(FactBody(body)), [&state, part, then = then](std::span<const Fault> faults) {
                 constexpr double cause = 0.1, innocent = 0.002, near = 0.01, near_mm = 4;
                 double share = innocent;
                 for (const Fault& fault : faults) {
                     if (!isOn(state.board, *then, fault)) continue;
                     if (fault.part == part) return std::log(cause);
                     if (fault.part < 0) continue;
                     const auto mm = apart_mm(state.board.parts[part], state.board.parts[fault.part]);
                     if (mm && *mm < near_mm) share = near;
                 }
                 return std::log(share);
             }});
    }
    return items;
}

std::vector<EvidenceItem> boardSeenEvidence(const CaseState& state, const BoardCircuit& circuit) {
    std::vector<EvidenceItem> items;
    for (const auto& [fact, body, then] : state.boardSeen) {
        std::vector<NetIndex> nets;
        const PartIndex part = partAt(state.board, body.place);
        const NetIndex named = state.board.findNet(body.place);
        if (named >= 0) nets.push_back(named);
        if (part >= 0)
            for (const Pad& pad : state.board.parts[part].pads)
                if (body.place.find('.') == std::string::npos ||
                    netOfPlace(state.board, body.place) == pad.net)
                    nets.push_back(pad.net);
        items.push_back({fact, sentenceOf(FactBody(body)),
                         [&state, &circuit, nets, part, damage = body.damage,
                          then = then](std::span<const Fault> faults) {
                             const bool conducts = damage == BoardDamage::BurntLaminate ||
                                                   damage == BoardDamage::SolderBridge ||
                                                   damage == BoardDamage::Corrosion ||
                                                   damage == BoardDamage::Dirt;
                             const bool breaks = damage == BoardDamage::LiftedPad ||
                                                 damage == BoardDamage::BrokenTrace ||
                                                 damage == BoardDamage::Corrosion;
                             // Seen on so many boards with the fault right there, and with it elsewhere.
                             constexpr double here = 0.5, behindALink = 0.03, atPart = 0.12, elsewhere = 0.01;
                             double share = elsewhere;
                             for (const Fault& fault : faults) {
                                 if (!isOn(state.board, *then, fault)) continue;
                                 const int rail = circuit.railOf(fault.a);
                                 const bool onRail =
                                     rail >= 0 && std::any_of(nets.begin(), nets.end(), [&](NetIndex net) {
                                         return circuit.railOf(net) == rail;
                                     });
                                 const bool onIt = std::find(nets.begin(), nets.end(), fault.a) != nets.end();
                                 if (fault.kind == FaultKind::Unlisted && conducts && onRail)
                                     share = std::max(share, onIt ? here : behindALink);
                                 if (fault.kind == FaultKind::Open && breaks && fault.part == part)
                                     share = std::max(share, here);
                                 if (fault.part >= 0 && fault.part == part) share = std::max(share, atPart);
                             }
                             return std::log(share);
                         }});
    }
    return items;
}

} // namespace ustor
