#include "diagnosis/fact/fact.h"

#include "base/quantity_text.h"

#include <algorithm>
#include <array>
#include <utility>

namespace ustor {
namespace {

template <class... F> struct Cases : F... { using F::operator()...; };
template <class... F> Cases(F...) -> Cases<F...>;

Message spotText(const HeatFound& heat) {
    if (heat.verdict == HeatVerdict::None) return say("nothing warm that follows the current");
    if (heat.verdict == HeatVerdict::Spread) return say("a wide warm area, no point");
    const HeatSpot& first = heat.spots.front();
    const std::string x = quantityText(first.at.x_mm, "mm"), y = quantityText(first.at.y_mm, "mm");
    Message where = heat.fromStills ? say("warmer than in the still before at {x}, {y}", {{"x", x}, {"y", y}})
                    : heat.verdict == HeatVerdict::FarSide
                        ? say("warmth from the other side near {x}, {y}", {{"x", x}, {"y", y}})
                        : say("warm spot at {x}, {y}", {{"x", x}, {"y", y}});
    if (heat.spots.size() == 1) return where;
    return say("{where} and {n} more", {{"where", where}, {"n", heat.spots.size() - 1}});
}

/// What a person wrote beside a fact, behind a comma.
Message with(Message said, const std::string& text) {
    return joined({std::move(said), verbatim(text)}, ", ");
}

} // namespace

std::string_view wordOf(Stage stage) {
    constexpr std::array<std::string_view, 9> stages{"Arrive", "Look", "Measure", "Split", "Inject",
                                                     "Judge",  "Lift", "Refit",   "Prove"};
    return stages[static_cast<std::size_t>(stage)];
}

Message labelOf(Stage stage) {
    switch (stage) {
    case Stage::Arrive:
        return say("Arrive");
    case Stage::Look:
        return say("Look");
    case Stage::Measure:
        return say("Measure");
    case Stage::Split:
        return say("Split");
    case Stage::Inject:
        return say("Inject");
    case Stage::Judge:
        return say("Judge");
    case Stage::Lift:
        return say("Lift");
    case Stage::Refit:
        return say("Refit");
    case Stage::Prove:
        return say("Prove");
    }
    return {};
}

Stage stageOf(const FactBody& body) {
    return std::visit(Cases{[](const Complaint&) { return Stage::Arrive; },
                            [](const SourceShows&) { return Stage::Arrive; },
                            [](const Seen&) { return Stage::Look; },
                            [](const Uncovered&) { return Stage::Look; },
                            [](const Unplugged&) { return Stage::Split; },
                            [](const MillivoltTaken&) { return Stage::Inject; },
                            [](const ReadingTaken&) { return Stage::Measure; },
                            [](const RailChosen&) { return Stage::Split; },
                            [](const ClassCorrected&) { return Stage::Look; },
                            [](const NominalSet&) { return Stage::Measure; },
                            [](const InjectionDone&) { return Stage::Inject; },
                            [](const HeatFound&) { return Stage::Judge; },
                            [](const Lifted&) { return Stage::Lift; },
                            [](const PartMeasured&) { return Stage::Lift; },
                            [](const Refitted&) { return Stage::Refit; },
                            [](const Closed&) { return Stage::Prove; },
                            [](const Noted&) { return Stage::Look; },
                            [](const Aligned&) { return Stage::Inject; },
                            [](const Painted&) { return Stage::Judge; },
                            [](const CautionMet&) { return Stage::Look; },
                            [](const History&) { return Stage::Arrive; },
                            [](const Negotiated&) { return Stage::Arrive; },
                            [](const PowerTrace&) { return Stage::Arrive; },
                            [](const FeeAgreed&) { return Stage::Arrive; },
                            [](const SchoolChosen&) { return Stage::Arrive; },
                            [](const LeadsMeasured&) { return Stage::Measure; },
                            [](const BoardSeen&) { return Stage::Look; },
                            [](const BurstSeen&) { return Stage::Look; },
                            [](const DonorReading&) { return Stage::Measure; },
                            [](const BoardWarm&) { return Stage::Measure; },
                            [](const SupplyShows&) { return Stage::Inject; },
                            [](const HeatSensed&) { return Stage::Judge; },
                            [](const CopperWorked&) { return Stage::Refit; },
                            [](const CameBack&) { return Stage::Prove; },
                            [](const Struck&) { return Stage::Arrive; },
                            [](const UnknownFact&) { return Stage::Arrive; }},
                      body);
}

Message sentenceOf(const FactBody& body) {
    return std::visit(
        Cases{
            [](const Complaint& f) { return verbatim(f.text); },
            [](const SourceShows& f) {
                const Message shown =
                    say("source shows {volts}, {amps}",
                        {{"volts", quantityText(f.volts, "V")}, {"amps", quantityText(f.amps, "A")}});
                const Message all =
                    f.reaction == Reaction::NotSaid ? shown : joined({shown, labelOf(f.reaction)}, ": ");
                return f.text.empty() ? all : say("{said} ({text})", {{"said", all}, {"text", f.text}});
            },
            [](const Seen& f) {
                const Message look = f.part.empty() ? labelOf(f.damage)
                                                    : say("{part}: {damage}",
                                                          {{"part", f.part}, {"damage", labelOf(f.damage)}});
                return joined({look, verbatim(f.text), f.photo.empty() ? Message() : say("with photo")},
                              ", ");
            },
            [](const Uncovered& f) {
                return say("{what} off: looked below", {{"what", f.what}});
            },
            [](const Unplugged& f) {
                return f.back ? say("plugged in again at {part}", {{"part", f.part}})
                              : say("unplugged what hangs at {part}", {{"part", f.part}});
            },
            [](const MillivoltTaken& f) {
                const Message place = f.black.empty() ? verbatim(f.place)
                                                      : say("{place} against {black}",
                                                            {{"place", f.place}, {"black", f.black}});
                return say("{place} {volts} while {amps} flows from {plus}",
                           {{"place", place},
                            {"volts", quantityText(f.volts, "V")},
                            {"amps", quantityText(f.amps, "A")},
                            {"plus", f.plus}});
            },
            [](const ReadingTaken& f) {
                const Message reading = say(
                    "{place} {mode} {reading}",
                    {{"place", f.place}, {"mode", labelOf(f.reading.mode)}, {"reading", textOf(f.reading)}});
                const Message taken = f.reversed ? joined({reading, say("leads reversed")}, ", ") : reading;
                const Message all = f.against.empty() ? taken
                                                      : say("{reading} against {place}",
                                                            {{"reading", taken}, {"place", f.against}});
                return f.powered ? joined({all, say("with the power on")}, ", ") : all;
            },
            [](const DonorReading& f) {
                const Message reading = say("a good board reads {reading} at {place}",
                                            {{"place", f.place}, {"reading", textOf(f.reading)}});
                return f.reversed ? joined({reading, say("leads reversed")}, ", ") : reading;
            },
            [](const BoardWarm& f) {
                return f.warm ? say("the board is warm: readings drift") : say("the board has cooled");
            },
            [](const History& f) { return with(labelOf(f.past), f.text); },
            [](const Negotiated& f) {
                const Message asked =
                    say("asked for {asked}, got {got}",
                        {{"asked", quantityText(f.asked_v, "V")}, {"got", quantityText(f.got_v, "V")}});
                const Message at = f.port.empty() ? asked : joined({verbatim(f.port), asked}, ": ");
                return f.turned ? joined({at, say("plug turned")}, ", ") : at;
            },
            [](const PowerTrace& f) {
                if (f.moments.empty()) return say("power put on");
                const auto& last = f.moments.back();
                return with(sayCount("power put on: one moment, {volts} {amps}",
                                     "power put on: {n} moments, at the end {volts} {amps}",
                                     static_cast<long>(f.moments.size()),
                                     {{"volts", quantityText(last.volts, "V")},
                                      {"amps", quantityText(last.amps, "A")}}),
                            f.text);
            },
            [](const LeadsMeasured& f) {
                return say("{leads} read {ohms}",
                           {{"leads", labelOf(f.leads)}, {"ohms", quantityText(f.ohms, "Ω")}});
            },
            [](const FeeAgreed& f) {
                return say("the job pays {fixed} when it is fixed, {look} when not; an hour is worth {hour}",
                           {{"fixed", quantityText(f.whenFixed, "")},
                            {"look", quantityText(f.whenNot, "")},
                            {"hour", quantityText(f.hourly, "")}});
            },
            [](const SchoolChosen& f) {
                return say("first from here: {school}", {{"school", labelOf(f.first)}});
            },
            [](const BoardSeen& f) {
                return with(joined({verbatim(f.place), labelOf(f.damage)}, ": "), f.text);
            },
            [](const BurstSeen& f) {
                return say("{place} {burst}", {{"place", f.place}, {"burst", labelOf(f.burst)}});
            },
            [](const SupplyShows& f) {
                return say("{place}: the supply shows {volts}, {amps}; {course}",
                           {{"place", f.place},
                            {"volts", quantityText(f.volts, "V")},
                            {"amps", quantityText(f.amps, "A")},
                            {"course", labelOf(f.course)}});
            },
            [](const HeatSensed& f) {
                return f.part.empty() ? joined({say("nothing shows"), labelOf(f.by)}, ": ")
                                      : joined({verbatim(f.part), labelOf(f.by)}, ": ");
            },
            [](const CopperWorked& f) {
                const Message at = joined({labelOf(f.work), verbatim(f.place)}, ": ");
                return f.to.empty() ? at : say("{from} to {to}", {{"from", at}, {"to", f.to}});
            },
            [](const CameBack& f) {
                return with(f.part.empty()
                                ? say("it fails again")
                                : say("it fails again after {part} was replaced", {{"part", f.part}}),
                            f.text);
            },
            [](const RailChosen& f) {
                return say("the hunt is about {net}", {{"net", f.net}});
            },
            [](const ClassCorrected& f) {
                return say("{part} is a {class}", {{"part", f.part}, {"class", labelOf(f.partClass)}});
            },
            [](const NominalSet& f) {
                return say("{net} works at {volts}", {{"net", f.net}, {"volts", quantityText(f.volts, "V")}});
            },
            [](const InjectionDone& f) {
                return say("injected into {net} at {plus}: {amps} limit, {delivered}, {cause}",
                           {{"net", f.net},
                            {"plus", f.plus},
                            {"amps", quantityText(f.amps, "A")},
                            {"delivered", f.byHand ? say("switched by hand")
                                                   : verbatim(quantityText(f.deliveredWatts, "W"))},
                            {"cause", labelOf(f.cause)}});
            },
            [](const HeatFound& f) { return spotText(f); },
            [](const Lifted& f) {
                return say("{part} lifted", {{"part", f.part}});
            },
            [](const Refitted& f) {
                return with(f.replaced ? say("{part} replaced by a new part", {{"part", f.part}})
                                       : say("{part} refitted", {{"part", f.part}}),
                            f.text);
            },
            [](const PartMeasured& f) {
                const Message read = f.shorted ? say("{part} reads shorted off the board", {{"part", f.part}})
                                     : f.open  ? say("{part} reads open off the board", {{"part", f.part}})
                                               : say("{part} reads fine off the board", {{"part", f.part}});
                return f.reading ? with(read, textOf(*f.reading)) : read;
            },
            [](const Closed& f) {
                const Message end = f.fixed ? say("fixed") : say("closed, not fixed");
                return with(f.culprit.empty() ? end : joined({end, verbatim(f.culprit)}, ": "), f.text);
            },
            [](const Aligned& f) {
                return say(
                    "camera aligned on the {side} side, to {residual}",
                    {{"side", labelOf(f.side)}, {"residual", quantityText(1e-3 * f.residual_mm, "m")}});
            },
            [](const Painted& f) {
                return say("{surface} painted over the picture ({over})",
                           {{"surface", f.surface}, {"over", labelOf(f.over)}});
            },
            [](const CautionMet& f) {
                return say("caution met: {about}", {{"about", f.about}});
            },
            [](const Noted& f) { return verbatim(f.text); },
            [](const Struck& f) {
                return say("fact {id} struck out", {{"id", f.id}});
            },
            [](const UnknownFact& f) {
                return say("a fact of a newer version ({kind})", {{"kind", f.kind}});
            }},
        body);
}

std::set<long> struckFacts(const std::vector<Fact>& facts) {
    std::set<long> struck;
    // Strikes only reach back, so the newest is settled first: one that is struck itself strikes nothing.
    for (auto fact = facts.rbegin(); fact != facts.rend(); ++fact)
        if (const auto* strike = std::get_if<Struck>(&fact->body);
            strike && strike->id < fact->id && !struck.contains(fact->id))
            struck.insert(strike->id);
    return struck;
}

std::vector<const Fact*> activeFacts(const std::vector<Fact>& facts) {
    const auto struck = struckFacts(facts);
    std::vector<const Fact*> active;
    active.reserve(facts.size());
    for (const Fact& fact : facts)
        if (!std::holds_alternative<Struck>(fact.body) && !struck.contains(fact.id)) active.push_back(&fact);
    return active;
}

bool isStruck(const std::vector<Fact>& facts, long id) {
    return struckFacts(facts).contains(id);
}

std::optional<long> undoTarget(const std::vector<Fact>& facts) {
    const auto struck = struckFacts(facts);
    for (auto fact = facts.rbegin(); fact != facts.rend(); ++fact) {
        // A caution that was met is nothing that somebody wants to take back.
        const bool counts = !std::holds_alternative<Struck>(fact->body) &&
                            !std::holds_alternative<CautionMet>(fact->body) && !struck.contains(fact->id);
        if (counts) return fact->id;
    }
    return std::nullopt;
}

std::optional<long> redoTarget(const std::vector<Fact>& facts) {
    const auto struck = struckFacts(facts);
    // Undo leaves strikes and struck strikes at the end; a fact that was noted since closes the way back.
    for (auto fact = facts.rbegin(); fact != facts.rend(); ++fact) {
        if (!std::holds_alternative<Struck>(fact->body)) return std::nullopt;
        if (struck.contains(fact->id)) continue;
        // A strike that brings something back is not an undo.
        const long target = std::get<Struck>(fact->body).id;
        const auto other =
            std::find_if(facts.begin(), facts.end(), [target](const Fact& f) { return f.id == target; });
        if (other != facts.end() && !std::holds_alternative<Struck>(other->body)) return fact->id;
    }
    return std::nullopt;
}

} // namespace ustor
