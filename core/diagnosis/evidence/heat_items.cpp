#include "diagnosis/evidence/heat_items.h"

#include "diagnosis/evidence/heat_look.h"

#include <algorithm>
#include <memory>

namespace ustor {
namespace {

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
    for (const CaseState::TakenHeat* best : clearestLooks(state)) {
        const auto look = std::make_shared<const HeatLook>(state, circuit, *best);
        items.push_back({best->fact, say("heat: {finding}", {{"finding", sentenceOf(best->found)}}),
                         [look](std::span<const Fault> faults) { return look->logLikelihood(faults); }});
    }
    return items;
}

} // namespace ustor
