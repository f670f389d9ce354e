#include "diagnosis/moves/planner.h"

#include "base/quantity_text.h"
#include "diagnosis/odds.h"

#include <algorithm>
#include <array>

namespace ustor {

namespace {

/// A meter on its ends tells whether it is shorted.
bool readsByItself(const Part& part) {
    return part.partClass == PartClass::CeramicCapacitor || part.partClass == PartClass::PolarCapacitor ||
           part.partClass == PartClass::ClampDiode || part.partClass == PartClass::Diode ||
           part.partClass == PartClass::Mosfet;
}

} // namespace

std::vector<Planner::Blamed> Planner::blamed() const {
    std::map<PartIndex, Blamed> byPart;
    for (const View& view : m_prospect.views())
        for (const PartIndex p : view.parts) {
            Blamed& b = byPart.try_emplace(p, Blamed{p}).first->second;
            const auto has = [&](auto&& is) {
                return std::any_of(view.left.begin(), view.left.end(),
                                   [&](const Fault& f) { return f.part == p && is(f); });
            };
            (has([](const Fault& f) { return f.conducts(); }) ? b.shorts : b.other) += view.odds;
            if (has([](const Fault& f) { return f.kind == FaultKind::Breakdown; })) b.breakdown += view.odds;
        }
    std::vector<Blamed> all;
    for (const auto& [p, b] : byPart)
        all.push_back(b);
    std::stable_sort(all.begin(), all.end(), [&](const Blamed& a, const Blamed& b) {
        const auto minutes = [&](const Blamed& each) {
            return minutesToTry(part(each.part), m.pace) + minutesToPutBack;
        };
        return a.all() * minutes(b) > b.all() * minutes(a);
    });
    return all;
}

int Planner::turnOf(const Blamed& b) const {
    constexpr double promising_perMinute = 0.03;
    const double perMinute = b.all() / minutesToTry(part(b.part), m.pace);
    // Half a minute with the meter before the iron (common practice).
    constexpr double readFirst = 0.35;
    if (m_unread && b.all() < readFirst && perMinute * unlistedMinutes > 1) return 2;
    return perMinute > promising_perMinute ? 1 : perMinute * unlistedMinutes > 1 ? 2 : 3;
}

int Planner::railShortedBy(PartIndex p) const {
    int first = -1;
    for (const View& view : m_prospect.views())
        for (const Fault& fault : view.left) {
            if (fault.part != p || !fault.conducts()) continue;
            for (const NetIndex net : {fault.a, fault.b}) {
                const int rail = m.circuit.railOf(net);
                if (rail >= 0 && rail == m_hunted) return rail;
                if (first < 0) first = rail;
            }
        }
    return first;
}

void Planner::lifts() {
    std::array<std::size_t, 2> offered{}; // beside those of the chosen school, and of it
    constexpr std::size_t most = 4;
    for (const Blamed& b : blamed()) {
        const std::string& name = part(b.part).designator;
        std::size_t& count = offered[chosenFirst(part(b.part))];
        if (count >= most || b.shorts <= b.other || m_state.lifted.contains(name)) continue;
        // Off and on again twice, and it still is not likely: nothing is learnt by a third time.
        constexpr int often = 2;
        constexpr double likely = 0.3;
        const auto mounted = m_state.mounting.find(name);
        if (mounted != m_state.mounting.end() && mounted->second >= often && b.shorts < likely) continue;
        const int rail = railShortedBy(b.part);
        if (rail < 0) continue;
        ++count;
        // Nothing comes off for a rail that was not read as the board stands (common practice).
        if (!isRead(rail)) {
            readFirst(rail, turnOf(b));
            continue;
        }
        constexpr double sure = 0.9;
        const double minutes = minutesToTry(part(b.part), m.pace);
        const long timed = m.pace.timed(liftingOf(part(b.part).partClass)).times;
        const bool end = part(b.part).partClass == PartClass::Processor;
        NextMove move{MoveKind::Lift,
                      name,
                      say("Lift {part} and measure the rail again", {{"part", name}}),
                      timed > 0
                          ? say("{odds} that it is the short; lifting takes {minutes}, by {times} that "
                                "were timed here",
                                {{"odds", percent(b.shorts)},
                                 {"minutes", quantityText(minutes, "min")},
                                 {"times", timed}})
                          : say("{odds} that it is the short; lifting takes {minutes}",
                                {{"odds", percent(b.shorts)}, {"minutes", quantityText(minutes, "min")}}),
                      end ? say("a shorted processor is the end for most boards: everything else first")
                          : say("hot air: shield plastic, mind the neighbours"),
                      minutes};
        weigh(move, given([&](const View& view) { return lowShare(rail, view, b.part); }),
              b.shorts > sure ? say("the short stays: a second one beside {part}, or a slip of the probe",
                                    {{"part", name}})
                              : say("the short stays: {part} is innocent", {{"part", name}}),
              say("the rail reads free without it"), b.part, minutesToPutBack);
        move.turn = turnOf(b);
        add(std::move(move));
    }
}

void Planner::replacements() {
    constexpr double likely = 0.3;
    if (worstRail() > likely) return;
    std::size_t offered = 0;
    constexpr std::size_t most = 3;
    for (const Blamed& b : blamed()) {
        if (offered >= most) break;
        const std::string& name = part(b.part).designator;
        if (b.other < b.shorts || m_state.lifted.contains(name)) continue;
        constexpr double power = 3;
        NextMove move{MoveKind::Replace,
                      name,
                      say("Replace {part} and try again", {{"part", name}}),
                      b.breakdown > 0.5 * b.other
                          ? say("{odds} that it shorts under voltage: no meter shows that",
                                {{"odds", percent(b.other)}})
                          : say("{odds} that it is open or dead: no meter shows that from outside",
                                {{"odds", percent(b.other)}}),
                      say("hot air: shield plastic, mind the neighbours"),
                      minutesToTry(part(b.part), m.pace) + power};
        weigh(move, given([&](const View& view) {
                  constexpr double starts = 0.87, never = 0.05;
                  const bool mended = view.listed && std::all_of(view.parts.begin(), view.parts.end(),
                                                                 [&](PartIndex p) { return p == b.part; });
                  return mended ? starts : never;
              }),
              say("the board starts"), say("no change"), b.part, minutesToPutBack);
        move.turn = turnOf(b);
        add(std::move(move));
        ++offered;
    }
}

void Planner::measureParts() {
    constexpr double unlikely = 0.15;
    if (shortedNow() > unlikely) return; // asked of before it is put back
    for (const std::string& name : m_state.lifted) {
        const PartIndex p = partNamed(m_state, name);
        if (p < 0 || m_state.measured.contains(name) || !readsByItself(part(p))) continue;
        double guilty = 0;
        for (const Hypothesis& h : m.belief.hypotheses)
            if (std::any_of(h.causes.begin(), h.causes.end(),
                            [p](const Fault& f) { return f.part == p && f.kind == FaultKind::Short; }))
                guilty += h.odds;
        constexpr double never = 0.01, sure = 0.97;
        if (guilty < never || guilty > sure) continue;
        NextMove move{
            MoveKind::MeasurePart,
            name,
            say("Measure {part} by itself", {{"part", name}}),
            say("{odds} that it is a short of its own: half a minute shows it", {{"odds", percent(guilty)}}),
            {},
            minutesToRead};
        const double now = m_prospect.minutesNow();
        move.gainBits = entropyBits({guilty, 1 - guilty});
        move.minutesAfter = now;
        move.outcomes = {{say("it conducts: it is guilty, whatever else is"), guilty, now, repairable()},
                         {say("it does not: it is innocent"), 1 - guilty, now, repairable()}};
        move.turn = 0;
        price(move);
        m_moves.push_back(std::move(move));
    }
}

void Planner::refit() {
    constexpr double unlikely = 0.15, guilty = 0.5;
    if (shortedNow() > unlikely) return;
    if (m_state.lifted.empty() && !m_state.unplugged.empty() && m_state.replaced.empty()) {
        const std::string& plug = *m_state.unplugged.begin();
        const PartIndex p = m_board.findPart(plug);
        if (p >= 0 && m.belief.cause[static_cast<std::size_t>(p)] > guilty) {
            constexpr int readings = 2; // no first power proves it: not one of them alone
            if (!railsProven(readings)) return;
            NextMove close{
                MoveKind::Close,
                "",
                say("Close here: the short hangs at {part}", {{"part", plug}}),
                say("it is gone with the plug out: the board is free, hunt on what was plugged in"),
                {},
                1,
                4};
            close.turn = 0;
            close.end = CaseEnd::Fixed;
            return add(std::move(close));
        }
    }
    for (const bool first : {true, false})
        for (const std::string& name : m_state.lifted) {
            const PartIndex p = partNamed(m_state, name);
            const bool isGuilty = p >= 0 && m.belief.cause[static_cast<std::size_t>(p)] > guilty;
            if (isGuilty != first) continue;
            NextMove move =
                isGuilty ? NextMove{MoveKind::Replace,
                                    name,
                                    say("Replace {part} with the same value, size and voltage rating",
                                        {{"part", name}}),
                                    say("the short is gone with it off; a decoupling part is there for "
                                        "load steps"),
                                    say("let the board cool before alcohol"),
                                    4,
                                    2}
                         : NextMove{MoveKind::PutBack,
                                    name,
                                    say("Put {part} back", {{"part", name}}),
                                    say("the short stayed without it: it is innocent"),
                                    say("let the board cool before alcohol"),
                                    3,
                                    2};
            move.turn = 0;
            add(std::move(move));
        }
    for (const Together& other : m.together) {
        const std::string& name = part(other.part).designator;
        const bool done = m_state.generation.contains(name) || m_state.lifted.contains(name);
        if (!other.replace || done) continue;
        NextMove move{MoveKind::Replace,
                      name,
                      say("Replace {part} together with it", {{"part", name}}),
                      other.why,
                      say("let the board cool before alcohol"),
                      minutesToTry(part(other.part), m.pace),
                      2};
        move.turn = 0;
        add(std::move(move));
    }
    for (const std::string& name : m_state.unplugged) {
        const PartIndex p = partNamed(m_state, name);
        if (!readWithout(name)) continue; // that is what it was unplugged for
        if (p >= 0 && m.belief.cause[static_cast<std::size_t>(p)] > guilty) continue;
        NextMove move{MoveKind::PutBack,
                      name,
                      say("Plug back what hangs at {part}", {{"part", name}}),
                      say("the short stayed without it: it is innocent"),
                      {},
                      0.5,
                      2};
        move.turn = 0;
        add(std::move(move));
    }
}

} // namespace ustor
