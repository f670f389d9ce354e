#include "diagnosis/moves/cost_to_repair.h"

#include "diagnosis/hypothesis/presence.h"
#include "diagnosis/knowledge.h"

#include <algorithm>
#include <map>

namespace ustor {

double expectedMinutes(std::vector<Trial> trials, double otherwise) {
    std::sort(trials.begin(), trials.end(),
              [](const Trial& a, const Trial& b) { return a.odds * b.minutes > b.odds * a.minutes; });
    double sum = 0;
    for (const Trial& trial : trials)
        sum += trial.odds;
    const double scale = sum > 1 ? 1 / sum : 1;
    double minutes = 0, left = 1;
    for (const Trial& trial : trials) {
        if (trial.odds * scale * otherwise < trial.minutes * left) continue;
        minutes += left * trial.minutes;
        left = std::max(0.0, left - scale * trial.odds);
    }
    return minutes + left * otherwise;
}

double minutesToRepair(const CaseState& state, const Belief& belief) {
    const PartsOff now = standOf(state);
    std::map<PartIndex, double> byPart;
    for (const Hypothesis& h : belief.hypotheses) {
        std::vector<PartIndex> parts;
        for (const Fault& fault : h.causes)
            if (fault.part >= 0 && isOn(state.board, now, fault)) parts.push_back(fault.part);
        for (const PartIndex part : parts)
            byPart[part] += h.odds / static_cast<double>(parts.size());
    }
    constexpr double measure = 1;
    std::vector<Trial> trials;
    for (const auto& [part, odds] : byPart)
        trials.push_back({odds, Knowledge::minutesToLift(state.board.parts[part].partClass) + measure});
    return expectedMinutes(std::move(trials), unlistedMinutes);
}

} // namespace ustor
