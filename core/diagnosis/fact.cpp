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

std::string spotText(const HeatFound& heat) {
    if (heat.verdict == HeatVerdict::None) return "nothing warm that follows the current";
    if (heat.verdict == HeatVerdict::Spread) return "a wide warm area, no point";
    const HeatSpot& first = heat.spots.front();
    std::string text = heat.fromStills                        ? "warmer than in the still before at "
                       : heat.verdict == HeatVerdict::FarSide ? "warmth from the other side near "
                                                              : "warm spot at ";
    text += quantityText(first.at.x_mm, "mm") + ", " + quantityText(first.at.y_mm, "mm");
    if (heat.spots.size() > 1) text += " and " + std::to_string(heat.spots.size() - 1) + " more";
    return text;
}

} // namespace

std::string_view wordOf(Stage stage) {
    constexpr std::array<std::string_view, 9> stages{"Arrive", "Look", "Measure", "Split", "Inject",
                                                     "Judge",  "Lift", "Refit",   "Prove"};
    return stages[static_cast<std::size_t>(stage)];
}

std::string_view wordOf(Damage damage) {
    for (const auto& [known, word] : damages)
        if (known == damage) return word;
    return "looks fine";
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

std::string sentenceOf(const FactBody& body) {
    return std::visit(
        Cases{[](const Complaint& f) { return f.text; },
              [](const SourceShows& f) {
                  return "source shows " + quantityText(f.volts, "V") + ", " + quantityText(f.amps, "A") +
                         (f.text.empty() ? "" : " (" + f.text + ")");
              },
              [](const Seen& f) {
                  return f.part + (f.part.empty() ? "" : ": ") + std::string(wordOf(f.damage)) +
                         (f.text.empty() ? "" : ", " + f.text) + (f.photo.empty() ? "" : ", with photo");
              },
              [](const Uncovered& f) { return f.what + " off: looked below"; },
              [](const Unplugged& f) {
                  return f.back ? "plugged in again at " + f.part : "unplugged what hangs at " + f.part;
              },
              [](const MillivoltTaken& f) {
                  return f.place + (f.black.empty() ? "" : " against " + f.black) + " " +
                         quantityText(f.volts, "V") + " while " + quantityText(f.amps, "A") + " flows from " +
                         f.plus;
              },
              [](const ReadingTaken& f) {
                  return f.place + " " + std::string(wordOf(f.reading.mode)) + " " + textOf(f.reading) +
                         (f.reversed ? ", leads reversed" : "") +
                         (f.against.empty() ? "" : " against " + f.against);
              },
              [](const RailChosen& f) { return "the hunt is about " + f.net; },
              [](const ClassCorrected& f) { return f.part + " is a " + std::string(wordOf(f.partClass)); },
              [](const NominalSet& f) { return f.net + " works at " + quantityText(f.volts, "V"); },
              [](const InjectionDone& f) {
                  return "injected into " + f.net + " at " + f.plus + ": " + quantityText(f.amps, "A") +
                         " limit, " + (f.byHand ? "switched by hand" : quantityText(f.deliveredWatts, "W")) +
                         ", " + std::string(wordOf(f.cause));
              },
              [](const HeatFound& f) { return spotText(f); },
              [](const Lifted& f) { return f.part + " lifted"; },
              [](const Refitted& f) {
                  return f.part + (f.replaced ? " replaced by a new part" : " refitted") +
                         (f.text.empty() ? "" : ", " + f.text);
              },
              [](const PartMeasured& f) {
                  return f.part + (f.shorted ? " reads shorted off the board" : " reads fine off the board");
              },
              [](const Closed& f) {
                  return std::string(f.fixed ? "fixed" : "closed, not fixed") +
                         (f.culprit.empty() ? "" : ": " + f.culprit) + (f.text.empty() ? "" : ", " + f.text);
              },
              [](const Aligned& f) {
                  return "camera aligned on the " + std::string(wordOf(f.side)) + " side, to " +
                         quantityText(1e-3 * f.residual_mm, "m");
              },
              [](const Painted& f) {
                  return f.surface + " painted over the picture (" + std::string(wordOf(f.over)) + ")";
              },
              [](const CautionMet& f) { return "caution met: " + f.about; },
              [](const Noted& f) { return f.text; },
              [](const Struck& f) { return "fact " + std::to_string(f.id) + " struck out"; },
              [](const UnknownFact& f) { return "a fact of a newer version (" + f.kind + ")"; }},
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
