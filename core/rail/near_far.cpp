#include "rail/near_far.h"

#include "base/quantity_text.h"
#include "rail/copper.h"

#include <algorithm>
#include <cmath>

namespace ustor {
namespace {

UsualLeads leadsOf(Message name, int gauge, double length_m, double contacts_ohms) {
    return {std::move(name), Ohms(2 * wireResistance(gauge, length_m).value + contacts_ohms)};
}

} // namespace

const std::vector<UsualLeads>& usualLeads() {
    static const std::vector<UsualLeads> leads = {
        leadsOf(say("soldered leads, 0.5 m, AWG 16"), 16, 0.5, 0.004),
        leadsOf(say("clip leads, 1 m, AWG 18"), 18, 1.0, 0.030),
        leadsOf(say("thin clip leads, 0.5 m, AWG 24"), 24, 0.5, 0.040),
        leadsOf(say("adapter cable, 1.8 m, AWG 20, round plug"), 20, 1.8, 0.030),
        leadsOf(say("reversible data cable, 1 m, AWG 22, power meter between"), 22, 1.0, 0.060),
    };
    return leads;
}

Volts ratedFor(Volts shown) {
    constexpr double spare = 1.1;
    for (const double fixed : {5.0, 9.0, 15.0, 20.0})
        if (shown.value <= fixed * spare) return Volts(fixed);
    return shown;
}

NearFar nearOrFar(Volts shown, Amps flowing, Volts rated, Ohms leads) {
    NearFar found;
    constexpr double leastAmps = 0.2;
    if (flowing.value < leastAmps || shown.value > rated.value / 2) {
        found.sentence = say("the source is not in its limit: no hard short before the first switch");
        return found;
    }
    found.loop = shown / flowing;
    found.board = Ohms(std::max(0.0, found.loop.value - leads.value));
    // Two digits of 10 mV on the source, and a fifth on what is said of leads and contacts (common practice).
    constexpr double digit_v = 0.01, spread = 0.2;
    found.doubt = Ohms(std::hypot(digit_v / flowing.value, spread * leads.value));
    const std::string rest = quantityText(found.board.value, "\u03a9");
    const Message told =
        say("{loop} in the loop, {leads} of it leads", {{"loop", quantityText(found.loop.value, "\u03a9")},
                                                        {"leads", quantityText(leads.value, "\u03a9")}});
    constexpr double connector_ohms = 0.03, impossible = 3;
    if (found.loop.value < leads.value - impossible * found.doubt.value) {
        found.verdict = NearFar::Verdict::LeadsAlone;
        found.sentence =
            say("{told}: less than the leads alone. Do they touch, or are they better than said?",
                {{"told", told}});
    } else if (found.board.value <= connector_ohms + found.doubt.value) {
        found.verdict = NearFar::Verdict::AtConnector;
        found.sentence =
            say("{told}: {rest} left. The short is right at the connector", {{"told", told}, {"rest", rest}});
    } else {
        found.verdict = NearFar::Verdict::Behind;
        found.sentence = say("{told}: {rest} left. Copper, switches or links lie between connector and short",
                             {{"told", told}, {"rest", rest}});
    }
    return found;
}

} // namespace ustor
