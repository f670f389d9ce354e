#include "diagnosis/evidence/power_items.h"

#include "diagnosis/hypothesis/presence.h"
#include "rail/near_far.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace ustor {
namespace {

/// Where a fault is, as far as the source can tell, from the plug on: no current goes past an open way.
enum class Where {
    ShortAtInput,
    OpenWay,
    ShortOfMain,
    ShortOfDerived,
    ShortAside,
    Dead,
    OneRailLess,
    Nothing,
    Other,
    Sound
};
constexpr std::size_t wheres = 10;

struct Row {
    PlugIn shows;
    std::array<double, wheres> shares; ///< by `Where`
};
/// How often each shows so (common practice). Columns: short at the input; an open part on the way to the
/// main rail; short behind the input switches, on a derived rail, on one that only leads to a plug (a
/// display's, a port's); a dead controller on the way to the main rail; an open or a dead part in what makes
/// a derived rail; nothing electrical; anything else; nothing wrong.
constexpr std::array<Row, plugIns> table{
    {{PlugIn::Collapses, {0.80, 0.002, 0.07, 0.02, 0.015, 0.01, 0.003, 0.005, 0.05, 0.002}},
     {PlugIn::Sags, {0.10, 0.002, 0.20, 0.08, 0.06, 0.02, 0.006, 0.01, 0.05, 0.004}},
     {PlugIn::TakesNothing, {0.04, 0.75, 0.31, 0.07, 0.05, 0.35, 0.15, 0.14, 0.2, 0.02}},
     {PlugIn::StaysLow, {0.02, 0.10, 0.22, 0.15, 0.1, 0.35, 0.15, 0.14, 0.2, 0.02}},
     {PlugIn::StaysTaking, {0.01, 0.03, 0.06, 0.25, 0.17, 0.10, 0.16, 0.1, 0.15, 0.02}},
     {PlugIn::Pulses, {0.01, 0.02, 0.08, 0.20, 0.15, 0.05, 0.06, 0.02, 0.05, 0.005}},
     {PlugIn::TakesSome, {0.01, 0.08, 0.03, 0.15, 0.18, 0.10, 0.42, 0.3, 0.2, 0.04}},
     {PlugIn::TakesMuch, {0.01, 0.016, 0.03, 0.08, 0.055, 0.02, 0.05, 0.055, 0.1, 0.02}},
     {PlugIn::Starts, {0.002, 0.01, 0.004, 0.02, 0.22, 0.01, 0.02, 0.24, 0.1, 0.87}}}};
/// Where nobody said what the board does, a current that starts may as well be one that does not.
constexpr double unsaidStarts = 0.85;
/// Power put on twice, with nothing changed that matters (judgement).
constexpr double showsAgain = 0.9;
/// Of the looks at a sound board that does not start, those where somebody says so.
constexpr double saidNotToStart = 0.08;

Where whereOf(const Fault& fault, const BoardCircuit& circuit, const Feed& feed) {
    switch (fault.kind) {
    case FaultKind::Short:
    case FaultKind::Breakdown:
    case FaultKind::Unlisted: {
        // What lies nearest to the plug decides.
        const FeedStage a = feed.stageOf(circuit.railOf(fault.a));
        const FeedStage stage = fault.b >= 0 ? std::max(a, feed.stageOf(circuit.railOf(fault.b))) : a;
        if (stage == FeedStage::Input) return Where::ShortAtInput;
        if (stage == FeedStage::Main) return Where::ShortOfMain;
        const bool aside =
            feed.isAside(circuit.railOf(fault.a)) && (fault.b < 0 || feed.isAside(circuit.railOf(fault.b)));
        return aside ? Where::ShortAside : Where::ShortOfDerived;
    }
    case FaultKind::Open:
    case FaultKind::Dead:
        if (feed.isLoad(fault.part) || feed.cutsOnlyAside(fault.part)) return Where::Nothing;
        if (feed.stageFedBy(fault.part) == FeedStage::Derived) return Where::OneRailLess;
        return fault.kind == FaultKind::Open ? Where::OpenWay : Where::Dead;
    case FaultKind::Nothing:
        return Where::Nothing;
    case FaultKind::Other:
        break;
    }
    return Where::Other;
}

} // namespace

PlugIn plugInOf(const SourceShows& shows) {
    if (shows.reaction == Reaction::Pulses) return PlugIn::Pulses;
    if (shows.reaction == Reaction::Starts) return PlugIn::Starts;
    constexpr double noCurrent_a = 0.008, little_a = 0.1, limit_a = 0.9, collapsed = 0.35, sagged = 0.85;
    constexpr double usb_v = 5;
    const Volts rated = ratedFor(Volts(shows.volts));
    if (shows.amps >= limit_a) {
        // A source in its limit shows less than any that it could be set to; 5 V is the least of these.
        if (shows.volts < collapsed * usb_v || shows.volts < 2.5) return PlugIn::Collapses;
        return shows.volts < sagged * rated.value ? PlugIn::Sags : PlugIn::TakesMuch;
    }
    if (shows.amps < noCurrent_a) return PlugIn::TakesNothing;
    if (rated.value <= usb_v) return shows.amps < little_a ? PlugIn::StaysLow : PlugIn::StaysTaking;
    return PlugIn::TakesSome;
}

Message labelOf(PlugIn plugIn) {
    switch (plugIn) {
    case PlugIn::Collapses:
        return say("the source goes into its limit and its voltage collapses");
    case PlugIn::Sags:
        return say("the source goes into its limit and its voltage sags");
    case PlugIn::TakesNothing:
        return say("the board takes no current");
    case PlugIn::StaysLow:
        return say("the source stays at 5 V and gives hundredths of an ampere");
    case PlugIn::StaysTaking:
        return say("the source stays at 5 V and gives tenths of an ampere");
    case PlugIn::Pulses:
        return say("the current comes in pulses");
    case PlugIn::TakesSome:
        return say("the board takes less than an ampere at the full voltage");
    case PlugIn::Starts:
        return say("the board starts");
    case PlugIn::TakesMuch:
        return say("the board takes more than an ampere at the full voltage");
    }
    return {};
}

PlugInShares plugInShares(std::span<const Fault> faults, const CaseState& state, const PartsOff& then,
                          const BoardCircuit& circuit, const Feed& feed) {
    // Of several the one nearest to the plug shows: what comes first in the table's order, and no short
    // behind an open link.
    const auto isHidden = [&](const Fault& fault) {
        return fault.conductsUnderPower() &&
               std::any_of(faults.begin(), faults.end(), [&](const Fault& open) {
                   return open.kind == FaultKind::Open && isOn(state.board, then, open) &&
                          feed.cutsOff(open.part, fault.a);
               });
    };
    Where first = Where::Sound;
    for (const Fault& fault : faults)
        if (isOn(state.board, then, fault) && !isHidden(fault))
            first = std::min(first, whereOf(fault, circuit, feed));
    PlugInShares shares{};
    for (const Row& row : table)
        shares[static_cast<std::size_t>(row.shows)] = row.shares[static_cast<std::size_t>(first)];
    return shares;
}

std::vector<EvidenceItem> sourceEvidence(const CaseState& state, const BoardCircuit& circuit,
                                         const Feed& feed) {
    std::vector<EvidenceItem> items;
    for (std::size_t i = 0; i < state.sources.size(); ++i) {
        const CaseState::TakenSource& taken = state.sources[i];
        // Plugged in twice with the board as it was, the later look counts.
        const bool seenAgain =
            std::any_of(state.sources.begin() + static_cast<std::ptrdiff_t>(i) + 1, state.sources.end(),
                        [&](const CaseState::TakenSource& later) { return *later.then == *taken.then; });
        if (seenAgain) continue;
        const PlugIn shows = plugInOf(taken.shows);
        const CaseState::TakenSource* before = i > 0 ? &state.sources[i - 1] : nullptr;
        const bool said = taken.shows.reaction != Reaction::NotSaid;
        items.push_back({taken.fact, labelOf(shows),
                         [&state, &circuit, &feed, shows, said, before,
                          then = taken.then](std::span<const Fault> faults) {
                             const PlugInShares shares = plugInShares(faults, state, *then, circuit, feed);
                             double share = shares[static_cast<std::size_t>(shows)];
                             // Nothing that is wrong was touched since: it shows what it showed, and that is
                             // no second witness.
                             if (before && standAlike(state.board, *before->then, *then, faults))
                                 return std::log((plugInOf(before->shows) == shows ? showsAgain : 0) +
                                                 (1 - showsAgain) * share);
                             // Somebody looked, and it does not start: seldom with nothing wrong any more.
                             const bool sound =
                                 std::none_of(faults.begin(), faults.end(), [&](const Fault& fault) {
                                     return isOn(state.board, *then, fault);
                                 });
                             if (said && sound && shows != PlugIn::Starts) share *= saidNotToStart;
                             // What starts takes its current as well.
                             if (!said && (shows == PlugIn::TakesSome || shows == PlugIn::TakesMuch))
                                 share +=
                                     0.5 * unsaidStarts * shares[static_cast<std::size_t>(PlugIn::Starts)];
                             return std::log(share);
                         }});
    }
    return items;
}

} // namespace ustor
