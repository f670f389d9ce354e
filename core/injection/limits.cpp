#include "injection/limits.h"

#include "base/quantity_text.h"
#include "rail/copper.h"

#include <algorithm>
#include <cmath>
#include <optional>
#include <utility>

namespace ustor {

Ohms Leads::resistance() const {
    return wireResistance(gauge, 2 * length_m) + contacts;
}

namespace {

void add(std::vector<Bound>& bounds, double value, Message reason) {
    bounds.push_back({value, std::move(reason)});
}

void addCoreBound(std::vector<Bound>& bounds, std::optional<Volts> nominal, const Message& what) {
    const double own = nominal ? std::min(nominal->value, carefulVolts.value) : carefulVolts.value;
    add(bounds, own, what);
}

/// What ferrites, fuses and sense resistors of a size carry for a minute; order of magnitude, common
/// practice. Nothing for large ones and for coils.
std::optional<Amps> mostThrough(const Part& link) {
    if (link.partClass == PartClass::Inductor) return {};
    constexpr std::pair<double, double> byArea[] = {{0.3, 1.0}, {1.0, 2.0}, {2.4, 3.0}}; // 0201, 0402, 0603
    const double area_mm2 = link.width_mm * link.height_mm;
    for (const auto& [most_mm2, amps] : byArea)
        if (area_mm2 > 0 && area_mm2 < most_mm2) return Amps(amps);
    return {};
}

} // namespace

InjectionLimits injectionLimits(const Board& board, const Stretch& stretch, const Leads& leads,
                                const SupplyRange& supply) {
    InjectionLimits limits;
    auto& volts = limits.voltBounds;
    add(volts, supply.volts.value, say("the supply gives no more"));
    if (stretch.nominal)
        add(volts, stretch.nominal->value,
            say("working voltage of the rail ({rail})", {{"rail", nameOf(board, stretch)}}));
    else
        add(volts, carefulVolts.value, say("the rail's working voltage is not known"));
    for (const PartIndex p : stretch.suspects)
        if (board.parts[p].partClass == PartClass::Processor)
            addCoreBound(volts, stretch.nominal,
                         say("processor {part} hangs on this rail", {{"part", board.parts[p].designator}}));
    for (const Behind& behind : stretchesBehind(board, stretch)) {
        const std::string& through = board.parts[behind.through].designator;
        const std::string rail = behind.nets.empty() ? "?" : board.nets[behind.nets.front()].name;
        if (!behind.processors.empty())
            addCoreBound(
                volts, behind.nominal,
                say("processor {part} hangs behind {through}, which could be shorted",
                    {{"part", board.parts[behind.processors.front()].designator}, {"through", through}}));
        else if (behind.nominal)
            add(volts, behind.nominal->value,
                say("rail {rail} hangs behind {through}, which could be shorted",
                    {{"rail", rail}, {"through", through}}));
        else
            add(volts, carefulVolts.value,
                say("an unknown rail hangs behind {through}, which could be shorted",
                    {{"through", through}}));
    }

    auto& amps = limits.ampBounds;
    add(amps, supply.amps.value, say("the supply gives no more"));
    // Leads of 1 m get hand-warm at about 3 W between them; more is lost there than is worth it (common
    // practice).
    constexpr double leadWatts = 3;
    add(amps, std::sqrt(leadWatts / leads.resistance().value),
        say("the leads would turn more than 3 W into heat"));
    constexpr double schoolAmps = 5;
    add(amps, schoolAmps, say("nothing that shows at more than 5 A does not show below (common practice)"));

    for (const PartIndex p : stretch.links)
        if (const auto carries = mostThrough(board.parts[p]))
            add(amps, carries->value,
                say("link {part} is too small to carry more", {{"part", board.parts[p].designator}}));

    const auto tighter = [](const Bound& a, const Bound& b) { return a.value < b.value; };
    std::stable_sort(volts.begin(), volts.end(), tighter);
    std::stable_sort(amps.begin(), amps.end(), tighter);
    limits.volts = Volts(volts.front().value);
    limits.amps = Amps(amps.front().value);
    return limits;
}

} // namespace ustor
