#include "injection/outlook.h"

#include "base/quantity_text.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ustor {
namespace {

/// Of a small part within half a second on a dense board; order of magnitude.
constexpr double riseKelvinPerWatt = 60;

/// Usual resistance of what lies in the way; order of magnitude, common practice.
double linkOhms(const Part& link) {
    if (link.partClass == PartClass::SenseResistor)
        if (const auto told = quantityFromText(link.value); told && *told > 0 && *told < 1) return *told;
    switch (link.partClass) {
    case PartClass::SenseResistor:
        return 0.01;
    case PartClass::Ferrite:
        return 0.1;
    case PartClass::Fuse:
        return 0.03;
    default:
        return 0.02;
    }
}

/// Steady rise of two leads: insulation twice as thick as the copper, to still air.
double leadKelvin(const Leads& leads, Watts inLeads) {
    constexpr double loss_w_m2k = 12, copper_m = 1.02e-3, overAll = 2, gauge18 = 18, gaugesPerHalf = 6.02;
    const double wire_m = copper_m * std::pow(2, (gauge18 - leads.gauge) / gaugesPerHalf);
    const double surface_m2 = std::numbers::pi * overAll * wire_m * 2 * leads.length_m;
    const double inWire = inLeads.value * (1 - leads.contacts / leads.resistance());
    return surface_m2 > 0 ? inWire / (loss_w_m2k * surface_m2) : 0;
}

} // namespace

Watts wattsToSee(const CameraAbility& camera, double seconds) {
    constexpr double pixels = 4, deviations = 6;
    const double frames = std::max(1.0, seconds * camera.frameRate_hz);
    const double sigma_k = 2 * camera.netd_mk * 1e-3 / std::sqrt(frames * pixels);
    return Watts(deviations * sigma_k / riseKelvinPerWatt);
}

Seconds secondsToSee(const CameraAbility& camera, Watts watts) {
    const double share = wattsToSee(camera, 1) / watts;
    return Seconds(share * share);
}

StepOutlook outlookOf(const Board& board, const Stretch& stretch, const Leads& leads,
                      const CameraAbility& camera, Ohms fault, Volts volts, Amps amps) {
    StepOutlook outlook;
    outlook.flows = std::min(amps, volts / (fault + leads.resistance()));
    const double square = outlook.flows.value * outlook.flows.value;
    outlook.inFault = Watts(square * fault.value);
    outlook.inLeads = Watts(square * leads.resistance().value);
    outlook.faultRise_k = outlook.inFault.value * riseKelvinPerWatt;
    outlook.leadRise_k = leadKelvin(leads, outlook.inLeads);
    for (const PartIndex p : stretch.links)
        outlook.links.emplace_back(board.parts[p].designator,
                                   square * linkOhms(board.parts[p]) * riseKelvinPerWatt);
    std::stable_sort(outlook.links.begin(), outlook.links.end(),
                     [](const auto& a, const auto& b) { return a.second > b.second; });
    outlook.untilSeen = secondsToSee(camera, outlook.inFault);
    return outlook;
}

Message sentenceOf(const StepOutlook& o) {
    constexpr double noticed_k = 0.5, hopeless_s = 600;
    const std::string leads = quantityText(o.inLeads.value, "W");
    return joined(
        {say("about {amps} flow: {watts} in the fault, which warms a small part by some {rise}",
             {{"amps", quantityText(o.flows.value, "A")},
              {"watts", quantityText(o.inFault.value, "W")},
              {"rise", quantityText(o.faultRise_k, "K")}}),
         o.leadRise_k > noticed_k ? say("{watts} in the leads, which warm by {rise}",
                                        {{"watts", leads}, {"rise", quantityText(o.leadRise_k, "K")}})
                                  : say("{watts} in the leads", {{"watts", leads}}),
         !o.links.empty() && o.links.front().second > noticed_k
             ? say("{part} in the way warms by up to {rise}",
                   {{"part", o.links.front().first}, {"rise", quantityText(o.links.front().second, "K")}})
             : Message(),
         o.untilSeen.value > hopeless_s
             ? say("too little for this camera")
             : say("this camera tells after about {time}",
                   {{"time", quantityText(std::max(1.0, o.untilSeen.value), "s")}})},
        "; ");
}

} // namespace ustor
