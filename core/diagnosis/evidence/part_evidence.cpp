#include "diagnosis/evidence/part_evidence.h"

#include "rail/stretch.h"

#include <algorithm>
#include <cmath>

namespace ustor {
namespace {

struct DamageShares {
    double cause, victim, innocent;
};

/// How often a part shows that (common practice; one short in four shows itself).
DamageShares sharesOf(Damage damage) {
    switch (damage) {
    case Damage::None:
        return {0.75, 0.4, 0.97};
    case Damage::Cracked:
        return {0.06, 0.05, 0.006};
    case Damage::Burnt:
        return {0.06, 0.3, 0.005};
    case Damage::Hole:
        return {0.04, 0.1, 0.003};
    case Damage::Bulged:
        return {0.03, 0.05, 0.005};
    case Damage::Discoloured:
        return {0.05, 0.1, 0.015};
    case Damage::Corroded:
        return {0.05, 0.05, 0.015};
    case Damage::Missing:
        return {0.002, 0.02, 0.01};
    case Damage::Bent:
    case Damage::Askew: // beside its pads it opens, or touches its neighbour
        return {0.04, 0.01, 0.006};
    }
    return {1, 1, 1};
}

bool mayBeVictim(const Part& part) {
    return part.partClass == PartClass::Fuse || part.partClass == PartClass::SenseResistor;
}

/// A fuse or series resistor through which a short behind it draws its current: of a rail without a converter
/// between; where nobody knows the way of the power, of the rail that it is on.
bool isVictim(const CaseState& state, const BoardCircuit& circuit, const Feed& feed, PartIndex part,
              std::span<const Fault> faults) {
    const Part& seen = state.board.parts[part];
    if (!mayBeVictim(seen)) return false;
    const auto isBehind = [&](NetIndex net) {
        return net >= 0 && feed.stageOf(circuit.railOf(net)) != FeedStage::Derived && feed.cutsOff(part, net);
    };
    return std::any_of(faults.begin(), faults.end(), [&](const Fault& fault) {
        if (!fault.conducts() || fault.part == part) return false;
        if (feed.knowsLink(part)) return isBehind(fault.a) || isBehind(fault.b);
        return std::any_of(seen.pads.begin(), seen.pads.end(), [&](const Pad& pad) {
            const int rail = circuit.railOf(pad.net);
            return rail >= 0 && (rail == circuit.railOf(fault.a) || rail == circuit.railOf(fault.b));
        });
    });
}

bool isCause(PartIndex part, std::span<const Fault> faults) {
    return std::any_of(faults.begin(), faults.end(),
                       [part](const Fault& fault) { return fault.part == part; });
}

} // namespace

std::vector<EvidenceItem> seenEvidence(const CaseState& state, const BoardCircuit& circuit,
                                       const Feed& feed) {
    std::vector<EvidenceItem> items;
    for (const auto& [name, seen] : state.seen) {
        const PartIndex part = partNamed(state, name);
        if (part < 0) continue;
        const DamageShares shares = sharesOf(seen.damage);
        items.push_back({0, say("seen: {damage}", {{"damage", labelOf(seen.damage)}}),
                         [&state, &circuit, &feed, part, shares](std::span<const Fault> faults) {
                             // A fuse that opened for a short behind it shows it as a victim does.
                             if (isVictim(state, circuit, feed, part, faults)) return std::log(shares.victim);
                             return std::log(isCause(part, faults) ? shares.cause : shares.innocent);
                         },
                         mayBeVictim(state.board.parts[part]) ? -1 : part});
    }
    return items;
}

std::vector<EvidenceItem> measuredEvidence(const CaseState& state) {
    std::vector<EvidenceItem> items;
    for (const auto& [name, measured] : state.measured) {
        const PartIndex part = partNamed(state, name);
        if (part < 0) continue;
        // A short may need the voltage or the solder of the board to show; a good part reads shorted or open
        // by a slip.
        constexpr double shows = 0.97, slip = 0.005;
        items.push_back(
            {0, sentenceOf(FactBody(measured)),
             [part, shorted = measured.shorted, open = measured.open](std::span<const Fault> faults) {
                 double shortShare = slip, openShare = slip;
                 for (const Fault& f : faults) {
                     if (f.part != part) continue;
                     if (f.kind == FaultKind::Short) shortShare = shows;
                     if (f.kind == FaultKind::Open) openShare = shows;
                 }
                 if (shorted) return std::log(shortShare);
                 if (open) return std::log(openShare);
                 return std::log(1 - shortShare) + std::log(1 - openShare);
             },
             part});
    }
    return items;
}

} // namespace ustor
