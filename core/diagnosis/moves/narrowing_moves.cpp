#include "diagnosis/moves/planner.h"

#include "diagnosis/odds.h"

#include <algorithm>
#include <cmath>

namespace ustor {

void Planner::lookOver() {
    if (!m_state.seen.empty()) return;
    NextMove move{MoveKind::LookOver,
                  "",
                  say("Look at every part on the rail, both sides, under foam and labels"),
                  say("one short in four shows itself"),
                  {},
                  4};
    double after = 0, shown = 0;
    for (const View& view : m_prospect.views()) {
        const bool showsItself = view.listed && !view.parts.empty();
        const double shows = showsItself ? Knowledge::visibleShare : 0;
        constexpr double misled = 1.5; // innocent parts show marks as well
        if (showsItself)
            after += view.odds * shows * misled *
                     (minutesToTry(part(view.parts.front()), m.pace) + minutesToPutBack);
        shown += view.odds * shows;
    }
    const double clean = 1 - shown;
    move.minutesAfter = after + clean * m_prospect.minutesNow();
    move.outcomes = {{say("a part shows damage"), shown, shown > 0 ? after / shown : 0, 1},
                     {say("nothing is to be seen"), clean, m_prospect.minutesNow(), repairable()}};
    std::vector<double> odds;
    for (const View& view : m_prospect.views())
        odds.push_back(view.odds);
    move.gainBits = shown * entropyBits(odds);
    add(std::move(move));
}

void Planner::split() {
    if (m.splits.empty()) return;
    const SplitChoice& best = m.splits.front();
    Message links;
    for (const PartIndex link : best.links) {
        const std::string& name = part(link).designator;
        links =
            links.empty() ? verbatim(name) : say("{parts} and {part}", {{"parts", links}, {"part", name}});
    }
    NextMove move{MoveKind::Split,
                  part(best.links.front()).designator,
                  say("Lift {parts} and measure both sides", {{"parts", links}}),
                  outcomesOf(m_board, best),
                  say("hot air: shield plastic, mind the neighbours"),
                  best.minutes + 1};
    const auto on = [&](const Stretch& side) {
        return given([&](const View& view) {
            return std::any_of(
                       view.left.begin(), view.left.end(),
                       [&](const Fault& f) { return f.conducts() && (side.holds(f.a) || side.holds(f.b)); })
                       ? 1.0
                       : 0.0;
        });
    };
    Given near = on(best.near), far = on(best.far), none;
    for (std::size_t i = 0; i < near.size(); ++i) {
        if (near[i] > 0 && far[i] > 0) near[i] = far[i] = 0.5;
        none.push_back(1 - near[i] - far[i]);
    }
    const double putBack = static_cast<double>(best.links.size()) * minutesToPutBack;
    const auto outcome = [&](const Message& what, const Given& likely) {
        return m_prospect.add(move.outcomes, what, likely, -1, putBack);
    };
    move.minutesAfter = outcome(say("short at {place}", {{"place", best.placeNear}}), near) +
                        outcome(say("short at {place}", {{"place", best.placeFar}}), far) +
                        outcome(say("short on neither side"), none);
    move.gainBits = m_prospect.gainBits({near, far, none});
    add(std::move(move));
}

bool Planner::readWithout(const std::string& name) const {
    return std::any_of(m_state.readings.begin(), m_state.readings.end(),
                       [&](const auto& r) { return r.then->off.contains(name); });
}

bool Planner::bringsPower(PartIndex plug) const {
    int connectors = 0;
    PartIndex first = -1;
    for (PartIndex p = 0; p < static_cast<PartIndex>(m_board.parts.size()); ++p) {
        if (part(p).partClass != PartClass::Connector) continue;
        ++connectors;
        const bool atInput = std::any_of(part(p).pads.begin(), part(p).pads.end(), [&](const Pad& pad) {
            return m.feed.stageOf(m.circuit.railOf(pad.net)) == FeedStage::Input;
        });
        if (atInput && first < 0) first = p;
    }
    return plug == first && (connectors > 1 || !m_state.sources.empty());
}

void Planner::unplug() {
    constexpr std::size_t most = 2;
    for (std::size_t i = 0; i < std::min(most, m.unplug.size()); ++i) {
        const PartIndex plug = m.unplug[i].connector;
        const std::string& name = part(plug).designator;
        // Where the power comes in nothing else hangs; and what was read without it needs no second look.
        if (readWithout(name) || bringsPower(plug)) continue;
        NextMove move{MoveKind::Unplug,
                      name,
                      say("Unplug what hangs at {part} and measure again", {{"part", name}}),
                      say("gone: it is what was plugged in; still there: that is free"),
                      {},
                      0.7};
        weigh(move, given([&](const View& view) {
                  return !view.parts.empty() && view.parts.size() == 1 && view.parts.front() == plug ? 1.0
                                                                                                     : 0.0;
              }),
              say("the short is gone"), say("still there"), plug);
        add(std::move(move));
    }
}

void Planner::readAlong() {
    if (!m.along || !m.along->finding.readNext || !m.tools.millivolts) return;
    constexpr double little_bits = 0.1;
    const MillivoltFinding& along = m.along->finding;
    if (along.gain_bits < little_bits) return;
    const std::string place = m_board.placeOf(*along.readNext);
    NextMove move{MoveKind::ReadAlong,
                  place,
                  say("Read the millivolts at {place} while the current flows", {{"place", place}}),
                  say("of all pads this one tells most"),
                  say("the board is energised: probes only"),
                  0.3,
                  along.gain_bits};
    // Each bit halves what is left to try.
    move.minutesAfter = m_prospect.minutesNow() * std::pow(0.5, std::min(1.0, along.gain_bits));
    add(std::move(move));
}

} // namespace ustor
