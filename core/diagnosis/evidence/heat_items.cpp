#include "diagnosis/evidence/heat_items.h"

#include "diagnosis/heat_evidence.h"
#include "diagnosis/hypothesis/presence.h"
#include "rail/stretch.h"

#include <algorithm>
#include <cmath>
#include <memory>

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
constexpr VerdictShares facing{0.74, 0.3, 0.06, 0.17}, otherSide{1, 0.4, 0.13, 0.35},
    inLaminate{0.25, 0.1, 0.3, 0.35}, noPower{0.18, 0.04, 0.08, 0.7};

/// All that a look is judged by, kept for as long as somebody asks.
struct Look {
    HeatFound found;
    std::shared_ptr<const PartsOff> then;
    int rail = -1; ///< that was injected into; -1: not said
    std::vector<const Part*> links;
    double area_mm2 = 1;
};

bool hadPower(const Look& look, const Fault& fault, const Board& board, const BoardCircuit& circuit) {
    if (!fault.conducts()) return false;
    if (look.rail >= 0 && look.rail != circuit.railOf(fault.a) && look.rail != circuit.railOf(fault.b))
        return false;
    return isOn(board, *look.then, fault);
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
        best = std::max(best,
                        (part.side == look.found.side ? facing : otherSide).of(look.found.verdict) * density);
    }
    return std::log(std::max(1e-9, any ? best : noPower.of(look.found.verdict)));
}

} // namespace

std::vector<EvidenceItem> heatEvidence(const CaseState& state, const BoardCircuit& circuit) {
    std::vector<EvidenceItem> items;
    const BoardBox box = state.board.box();
    for (const Side side : {Side::Top, Side::Bottom}) {
        const auto strength = [](const HeatFound& h) { return h.spots.empty() ? 0.0 : h.spots.front().snr; };
        const CaseState::TakenHeat* best = nullptr;
        for (const auto* findings : {&state.heat, &state.stills}) {
            for (const auto& heat : *findings)
                if (heat.found.side == side && (!best || strength(heat.found) >= strength(best->found)))
                    best = &heat;
            if (best) break;
        }
        if (!best) continue;
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
        items.push_back({best->fact, say("heat: {finding}", {{"finding", sentenceOf(best->found)}}),
                         [&state, &circuit, look](std::span<const Fault> faults) {
                             return logLikelihoodOf(*look, faults, state.board, circuit);
                         }});
    }
    return items;
}

} // namespace ustor
