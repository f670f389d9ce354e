#include "diagnosis/moves/cost_to_repair.h"

#include "diagnosis/knowledge.h"

#include <algorithm>

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

double minutesToTry(const Part& part, const WorkPace& pace) {
    constexpr double measure = 1;
    return Knowledge::minutesToLift(part.partClass) * pace.factor(liftingOf(part.partClass)) + measure;
}

} // namespace ustor
