#include "diagnosis/evidence/story_items.h"

#include "base/quantity_text.h"
#include "diagnosis/hypothesis/presence.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <cmath>
#include <string_view>
#include <utility>

namespace ustor {
namespace {

/// Columns of the table of stories.
enum class Whom { Capacitor, Switch, Clamp, Chip, Connector, OpenPart, Dead, Unlisted, Nothing, Other };

Whom whomOf(const Fault& fault, const Board& board) {
    switch (fault.kind) {
    case FaultKind::Open:
        return Whom::OpenPart;
    case FaultKind::Dead:
        return Whom::Dead;
    case FaultKind::Unlisted:
        return Whom::Unlisted;
    case FaultKind::Nothing:
        return Whom::Nothing;
    case FaultKind::Other:
        return Whom::Other;
    case FaultKind::Short:
    case FaultKind::Breakdown:
        break;
    }
    switch (board.parts[static_cast<std::size_t>(fault.part)].partClass) {
    case PartClass::CeramicCapacitor:
    case PartClass::PolarCapacitor:
        return Whom::Capacitor;
    case PartClass::Mosfet:
    case PartClass::Switch:
    case PartClass::Diode:
        return Whom::Switch;
    case PartClass::ClampDiode:
        return Whom::Clamp;
    case PartClass::Connector:
        return Whom::Connector;
    default:
        return Whom::Chip;
    }
}

struct StoryRow {
    Past past;
    std::array<double, 10> shares; ///< by `Whom`
};
/// How often a board with such a fault comes with such a story (common practice: liquid corrodes chips,
/// connectors and what lies between pads; a fall breaks joints; a wrong source goes through clamp and input
/// switches; other shops leave solder, missing parts and new faults).
constexpr std::array<StoryRow, 6> stories{
    {{Past::Liquid, {0.25, 0.22, 0.12, 0.3, 0.45, 0.25, 0.3, 0.5, 0.12, 0.25}},
     {Past::Heat, {0.2, 0.2, 0.08, 0.22, 0.1, 0.12, 0.15, 0.15, 0.12, 0.15}},
     {Past::Drop, {0.08, 0.03, 0.03, 0.05, 0.15, 0.3, 0.05, 0.08, 0.08, 0.1}},
     {Past::OtherShop, {0.12, 0.15, 0.12, 0.14, 0.2, 0.25, 0.25, 0.4, 0.2, 0.25}},
     {Past::Charging, {0.12, 0.25, 0.15, 0.15, 0.2, 0.12, 0.2, 0.08, 0.08, 0.12}},
     {Past::WrongSource, {0.06, 0.25, 0.6, 0.12, 0.05, 0.15, 0.15, 0.05, 0.03, 0.1}}}};

struct Telling {
    Past past;
    std::array<std::string_view, 9> words; ///< beginnings of words, in small letters
};
constexpr std::array<Telling, 6> tellings{
    {{Past::Liquid, {"liquid", "water", "spill", "coffee", "wet", "rain", "flood", "corro", "damp"}},
     {Past::Heat, {"hot", "heat", "overheat", "burn", "summer"}},
     {Past::Drop, {"drop", "fell", "fall"}},
     {Past::OtherShop, {"shop", "repair", "resolder", "worked", "rework"}},
     {Past::Charging, {"charg"}},
     {Past::WrongSource, {"polarity", "wrong", "overvolt", "surge", "lightning"}}}};

} // namespace

std::vector<Past> pastIn(const std::string& complaint) {
    std::vector<Past> found;
    std::string word;
    int denied = 0; // words that a "no" still reaches
    const auto take = [&] {
        if (word.empty()) return;
        for (const Telling& each : tellings)
            for (const std::string_view beginning : each.words)
                if (!beginning.empty() && denied <= 0 && word.starts_with(beginning) &&
                    std::find(found.begin(), found.end(), each.past) == found.end())
                    found.push_back(each.past);
        constexpr int reach = 3;
        denied = word == "no" || word == "not" || word == "never" || word == "without" ? reach : denied - 1;
        word.clear();
    };
    for (const char c : complaint) {
        if (std::isalpha(static_cast<unsigned char>(c)) != 0) {
            word += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
            continue;
        }
        take();
        if (c == '.' || c == ',' || c == ';') denied = 0;
    }
    take();
    return found;
}

std::vector<EvidenceItem> storyEvidence(const CaseState& state) {
    std::vector<std::pair<long, Past>> told;
    const auto tell = [&told](long fact, Past past) {
        const bool known =
            std::any_of(told.begin(), told.end(), [past](const auto& each) { return each.second == past; });
        if (!known) told.emplace_back(fact, past);
    };
    for (const auto& [fact, history] : state.histories)
        tell(fact, history.past);
    for (const Past past : pastIn(state.complaint))
        tell(0, past);
    std::vector<EvidenceItem> items;
    for (const auto& [fact, past] : told) {
        const auto row = std::find_if(stories.begin(), stories.end(),
                                      [past = past](const StoryRow& each) { return each.past == past; });
        if (row == stories.end()) continue;
        items.push_back(
            {fact, labelOf(past), [&state, row](std::span<const Fault> faults) {
                 // Of several faults the one that such a story goes with best.
                 double share = 0;
                 for (const Fault& fault : faults)
                     share =
                         std::max(share, row->shares[static_cast<std::size_t>(whomOf(fault, state.board))]);
                 const auto nothing = static_cast<std::size_t>(Whom::Nothing);
                 return std::log(faults.empty() ? row->shares[nothing] : share);
             }});
    }
    return items;
}

std::vector<EvidenceItem> negotiationEvidence(const CaseState& state) {
    std::vector<EvidenceItem> items;
    const auto passed = [](const Negotiated& n) {
        constexpr double there = 0.85;
        return n.got_v >= there * n.asked_v;
    };
    for (const auto& [fact, body, then] : state.negotiations) {
        const bool passes = passed(body);
        // The same plug the other way round, with the board as it was.
        const bool otherWayDiffers =
            std::any_of(state.negotiations.begin(), state.negotiations.end(),
                        [&, &own = body, &stood = then](const auto& other) {
                            return other.body.port == own.port && other.body.turned != own.turned &&
                                   *other.then == *stood && passed(other.body) != passes;
                        });
        const PartIndex port = body.port.empty() ? -1 : state.board.findPart(body.port);
        items.push_back(
            {fact,
             joined({passes ? say("the source gives what it was asked for")
                            : say("the source stays below what it was asked for"),
                     otherWayDiffers ? say("one way round only") : Message()},
                    ", "),
             [&state, passes, otherWayDiffers, port, then = then](std::span<const Fault> faults) {
                 // One of two ways: connector or what talks to it, hardly a short.
                 constexpr double oneWay = 0.1, byPort = 0.6, byChip = 0.25, shortOneWay = 0.02;
                 constexpr double passShort = 0.3, passOpen = 0.4, passElse = 0.6, passSound = 0.97;
                 double share = passSound, differs = 0.01;
                 for (const Fault& fault : faults) {
                     if (!isOn(state.board, *then, fault)) continue;
                     const double own = fault.conductsUnderPower()      ? passShort
                                        : fault.kind == FaultKind::Open ? passOpen
                                                                        : passElse;
                     share = std::min(share, own);
                     const bool connector =
                         fault.part >= 0 && state.board.parts[fault.part].partClass == PartClass::Connector;
                     const bool atPort = port >= 0 ? fault.part == port : connector;
                     differs = std::max(differs, atPort                          ? byPort
                                                 : fault.kind == FaultKind::Dead ? byChip
                                                 : fault.conductsUnderPower()    ? shortOneWay
                                                                                 : oneWay);
                 }
                 return std::log(otherWayDiffers ? differs : passes ? share : 1 - share);
             }});
    }
    return items;
}

std::vector<EvidenceItem> cameBackEvidence(const CaseState& state) {
    std::vector<EvidenceItem> items;
    for (const auto& [fact, body, then] : state.cameBack) {
        const PartIndex again = body.part.empty() ? -1 : state.board.findPart(body.part);
        items.push_back(
            {fact, sentenceOf(FactBody(body)), [&state, again, then = then](std::span<const Fault> faults) {
                 // The new part is seldom bad by itself: what killed the old one is still there.
                 constexpr double elsewhere = 0.5, same = 0.25, nothingLeft = 0.02;
                 double share = nothingLeft;
                 for (const Fault& fault : faults)
                     if (isOn(state.board, *then, fault) && fault.kind != FaultKind::Nothing)
                         share = std::max(share, fault.part >= 0 && fault.part == again ? same : elsewhere);
                 return std::log(share);
             }});
    }
    return items;
}

} // namespace ustor
