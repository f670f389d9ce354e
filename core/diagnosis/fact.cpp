#include "diagnosis/fact.h"

#include "base/quantity_text.h"

#include <algorithm>
#include <array>
#include <map>
#include <utility>

namespace ustor {
namespace {

template <class... F> struct Cases : F... { using F::operator()...; };
template <class... F> Cases(F...) -> Cases<F...>;

constexpr std::array<std::pair<Damage, std::string_view>, 8> damages{{{Damage::None, "looks fine"},
                                                                      {Damage::Cracked, "cracked"},
                                                                      {Damage::Bulged, "bulged"},
                                                                      {Damage::Discoloured, "discoloured"},
                                                                      {Damage::Burnt, "burnt"},
                                                                      {Damage::Hole, "hole"},
                                                                      {Damage::Corroded, "corroded"},
                                                                      {Damage::Missing, "missing"}}};

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

std::string_view wordOf(Damage damage) {
    for (const auto& [known, word] : damages)
        if (known == damage) return word;
    return "looks fine";
}

Message labelOf(Damage damage) {
    switch (damage) {
    case Damage::None:
        return say("looks fine");
    case Damage::Cracked:
        return say("cracked");
    case Damage::Bulged:
        return say("bulged");
    case Damage::Discoloured:
        return say("discoloured");
    case Damage::Burnt:
        return say("burnt");
    case Damage::Hole:
        return say("hole");
    case Damage::Corroded:
        return say("corroded");
    case Damage::Missing:
        return say("missing");
    }
    return {};
}

std::optional<Damage> damageFromWord(std::string_view word) {
    for (const auto& [known, text] : damages)
        if (text == word) return known;
    return std::nullopt;
}

std::string_view wordOf(Painted::Over over) {
    switch (over) {
    case Painted::Over::Top:
        return "top";
    case Painted::Over::Bottom:
        return "bottom";
    case Painted::Over::Stills:
        return "stills";
    }
    return "top";
}

Message labelOf(Painted::Over over) {
    switch (over) {
    case Painted::Over::Top:
        return labelOf(Side::Top);
    case Painted::Over::Bottom:
        return labelOf(Side::Bottom);
    case Painted::Over::Stills:
        return say("stills");
    }
    return {};
}

std::string_view wordOf(Reaction reaction) {
    switch (reaction) {
    case Reaction::NotSaid:
        return "not-said";
    case Reaction::None:
        return "none";
    case Reaction::Starts:
        return "starts";
    case Reaction::StartsAndDies:
        return "dies";
    case Reaction::Pulses:
        return "pulses";
    case Reaction::ShutsOff:
        return "shuts-off";
    }
    return "not-said";
}

Message labelOf(Reaction reaction) {
    switch (reaction) {
    case Reaction::NotSaid:
        return {};
    case Reaction::None:
        return say("no reaction");
    case Reaction::Starts:
        return say("the board starts");
    case Reaction::StartsAndDies:
        return say("it starts and dies");
    case Reaction::Pulses:
        return say("it comes and goes on a steady beat");
    case Reaction::ShutsOff:
        return say("the source shuts itself off");
    }
    return {};
}

std::optional<Reaction> reactionFromWord(std::string_view word) {
    for (const Reaction each : {Reaction::NotSaid, Reaction::None, Reaction::Starts, Reaction::StartsAndDies,
                                Reaction::Pulses, Reaction::ShutsOff})
        if (wordOf(each) == word) return each;
    return std::nullopt;
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
                return f.against.empty()
                           ? taken
                           : say("{reading} against {place}", {{"reading", taken}, {"place", f.against}});
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
                return f.shorted ? say("{part} reads shorted off the board", {{"part", f.part}})
                                 : say("{part} reads fine off the board", {{"part", f.part}});
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
