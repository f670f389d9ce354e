#include "injection/plan.h"

#include "base/quantity_text.h"

#include <algorithm>
#include <cmath>

namespace ustor {

namespace {

/// Of a small part within half a second on a dense board; order of magnitude.
constexpr double riseKelvinPerWatt = 60;
/// Room for the supply's own accuracy below the trip, which is never above the limit itself.
constexpr double below = 0.92;

} // namespace

Watts wattsToSee(const CameraAbility& camera, double seconds) {
    constexpr double pixels = 4, deviations = 6;
    const double frames = std::max(1.0, seconds * camera.frameRate_hz);
    const double sigma_k = 2 * camera.netd_mk * 1e-3 / std::sqrt(frames * pixels);
    return Watts(deviations * sigma_k / riseKelvinPerWatt);
}

namespace {

/// Current that really flows under both limits of the supply.
Amps currentInto(Ohms loop, Volts volts, Amps amps) {
    return std::min(amps, volts / loop);
}

std::string expectation(const PlanRequest& request, Volts volts, Amps amps) {
    if (!request.faultResistance) return "the fault's resistance is not known yet";
    const Ohms fault = *request.faultResistance, loop = fault + request.leads.resistance();
    const Amps flows = currentInto(loop, volts, amps);
    const double inFault = flows.value * flows.value * fault.value;
    const double inLeads = flows.value * flows.value * request.leads.resistance().value;
    return "about " + quantityText(flows.value, "A") + " flow: " + quantityText(inFault, "W") +
           " in the fault, which warms a small part by some " +
           quantityText(inFault * riseKelvinPerWatt, "K") + "; " + quantityText(inLeads, "W") +
           " in the leads";
}

void climb(InjectionPlan& plan, const PlanRequest& request, Volts first) {
    constexpr double half = 1.5;
    const Volts last = plan.limits.volts * below;
    for (Volts volts = first; plan.steps.empty() || plan.steps.back().volts < last;
         volts = std::min(Volts(volts.value * half), last)) {
        InjectionStep step;
        step.volts = volts;
        step.amps = std::min(plan.limits.amps, Amps(climbWatts.value / volts.value));
        step.reason = expectation(request, volts, step.amps);
        plan.steps.push_back(step);
    }
    // The trip goes up with the last step only as far as the limit; the supply's own limit holds below it.
    plan.overVoltage = std::min(Volts(plan.steps.back().volts.value * 1.08), plan.limits.volts);
    plan.notes.emplace_back("climb only when nothing showed at 1 V, and look at the other side first");
}

} // namespace

InjectionPlan planInjection(const Board& board, const Stretch& stretch, const PlanRequest& request) {
    InjectionPlan plan;
    plan.limits = injectionLimits(board, stretch, request.leads, request.supply);
    constexpr Volts start{1.0};
    const Volts volts = std::min(start, plan.limits.volts * below);
    plan.overVoltage = std::min(Volts(volts.value * 1.1), plan.limits.volts);

    const InjectionStep pulses;
    const double seconds = pulses.seconds();
    const Watts wanted = wattsToSee(request.camera, seconds);
    plan.notes.push_back("this camera sees " + quantityText(wanted.value, "W") + " in a small part after " +
                         quantityText(seconds, "s") + " of pulses");

    if (request.school == School::Climb) {
        climb(plan, request, volts);
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
        InjectionStep step = pulses;
        step.volts = volts;
        step.amps = Amps(amps);
        step.reason = expectation(request, volts, step.amps);
        if (request.faultResistance && request.school == School::Ladder) {
            const Amps flows =
                currentInto(*request.faultResistance + request.leads.resistance(), volts, step.amps);
            const double inFault = flows.value * flows.value * request.faultResistance->value;
            const bool last = amps == rungs.back() || flows.value < 0.9 * amps;
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
        plan.notes.push_back("even the last step may stay below what this camera sees: record longer, or "
                             "raise the voltage within the limit");
    return plan;
}

} // namespace ustor
