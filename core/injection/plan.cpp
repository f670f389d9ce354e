#include "injection/plan.h"

#include "base/quantity_text.h"

#include <algorithm>
#include <cmath>

namespace ustor {

namespace {

/// Room for the supply's own accuracy below the trip, which is never above the limit itself.
constexpr double below = 0.92;

/// A step with what to expect of it.
InjectionStep stepOf(const Board& board, const Stretch& stretch, const PlanRequest& request,
                     const InjectionLimits& limits, Volts volts, Amps amps) {
    constexpr double above = 1.1;
    InjectionStep step;
    step.volts = volts;
    step.overVoltage = std::min(Volts(volts.value * above), limits.volts);
    step.amps = amps;
    step.reason = say("the fault's resistance is not known yet");
    if (!request.faultResistance) return step;
    step.outlook =
        outlookOf(board, stretch, request.leads, request.camera, *request.faultResistance, volts, amps);
    step.reason = sentenceOf(*step.outlook);
    return step;
}

void climb(InjectionPlan& plan, const Board& board, const Stretch& stretch, const PlanRequest& request,
           Volts first) {
    constexpr double half = 1.5;
    const Volts last = plan.limits.volts * below;
    for (Volts volts = first; plan.steps.empty() || plan.steps.back().volts < last;
         volts = std::min(Volts(volts.value * half), last))
        plan.steps.push_back(stepOf(board, stretch, request, plan.limits, volts,
                                    std::min(plan.limits.amps, Amps(climbWatts.value / volts.value))));
    plan.notes.emplace_back(say("climb only when nothing showed at 1 V, and look at the other side first"));
}

} // namespace

InjectionPlan planInjection(const Board& board, const Stretch& stretch, const PlanRequest& request) {
    InjectionPlan plan;
    plan.limits = injectionLimits(board, stretch, request.leads, request.supply);
    constexpr Volts start{1.0};
    const Volts volts = std::min(start, plan.limits.volts * below);

    const double seconds = InjectionStep().seconds();
    const Watts wanted = wattsToSee(request.camera, seconds);
    plan.notes.push_back(
        say("this camera sees {wanted} in a small part after {seconds} of pulses",
            {{"wanted", quantityText(wanted.value, "W")}, {"seconds", quantityText(seconds, "s")}}));

    if (request.school == School::Climb) {
        climb(plan, board, stretch, request, volts);
        return plan;
    }
    std::vector<double> rungs;
    if (request.school == School::FullAtOnce)
        rungs.push_back(plan.limits.amps.value);
    else
        for (double amps = 0.1; amps < plan.limits.amps.value; amps *= 2)
            rungs.push_back(amps);
    if (rungs.empty() || rungs.back() < plan.limits.amps.value) rungs.push_back(plan.limits.amps.value);
    bool enough = false;
    for (const double amps : rungs) {
        const InjectionStep step = stepOf(board, stretch, request, plan.limits, volts, Amps(amps));
        if (step.outlook && request.school == School::Ladder) {
            const double inFault = step.outlook->inFault.value;
            const bool last = amps == rungs.back() || step.outlook->flows.value < 0.9 * amps;
            // Rungs that show nothing cost a minute each: the first one that the camera can see is where to
            // start.
            constexpr double margin = 5;
            if (inFault < margin * wanted.value && !last) continue;
            plan.steps.push_back(step);
            enough = inFault >= margin * wanted.value;
            // A small part shows at once and ends the run; a large chip spreads its heat, and the other side
            // shows late: for them the ladder goes on.
            constexpr double largeParts = 100;
            if (inFault >= largeParts * wanted.value || last) break;
        } else {
            plan.steps.push_back(step);
        }
    }
    if (request.faultResistance && !enough && request.school == School::Ladder)
        plan.notes.push_back(say("even the last step may stay below what this camera sees: record longer, or "
                                 "raise the voltage within the limit"));
    return plan;
}

} // namespace ustor
