#include "diagnosis/moves/planner.h"

#include "base/quantity_text.h"
#include "rail/handy_place.h"

#include <algorithm>

namespace ustor {

bool Planner::railsProven(int readings) {
    bool open = false;
    for (int rail = 0; rail < static_cast<int>(m.circuit.rails().size()); ++rail) {
        bool wasDown = false, read = false;
        int readNow = 0;
        for (const auto* r : m_readings[static_cast<std::size_t>(rail)]) {
            const auto low = readsLow(r->taken.reading);
            if (!low) continue;
            wasDown = wasDown || *low;
            read = true;
            readNow += asNow(*r);
        }
        const double risk = m_prospect.oddsOf([&](const View& view) {
            return std::any_of(view.left.begin(), view.left.end(),
                               [&](const Fault& f) { return shorts(f, rail); });
        });
        constexpr double accepted = 0.004;
        if (wasDown ? readNow >= readings : read || risk < accepted || !m_power.contains(rail)) continue;
        const NetIndex net = handyNet(rail);
        NextMove move{MoveKind::ProveRail,
                      handyPlace(m_board, *m_state.netParts, net),
                      say("Measure {rail} before power", {{"rail", m_board.nets[net].name}}),
                      readNow > 0 ? say("one reading may be a slip of the probe")
                      : wasDown   ? say("it was down: no short before power")
                                  : say("nobody has read it yet: no short before power"),
                      {},
                      0.5,
                      2};
        move.turn = 0;
        move.mode = newestMode(rail);
        open = true;
        add(std::move(move));
    }
    return !open;
}

void Planner::prove() {
    if (!m_state.off().empty() || m_state.replaced.empty()) return;
    constexpr double unlikely = 0.15;
    if (shortedNow() > unlikely || !railsProven(1)) return;
    const bool powered = !m_state.sources.empty() && m_state.sources.back().then == m_state.now;
    if (!powered) {
        std::erase_if(m_moves, [](const NextMove& move) { return move.kind == MoveKind::FirstPower; });
        NextMove move{MoveKind::FirstPower,
                      "",
                      say("First power with a current limit; watch the steps of the current"),
                      say("no short before power; then every rail"),
                      say("stay below the working voltage"),
                      3,
                      1};
        move.turn = 0;
        return add(std::move(move));
    }
    const Reaction reaction = m_state.sources.back().shows.reaction;
    if (reaction != Reaction::Starts && reaction != Reaction::NotSaid) return;
    // A board that starts has nothing wrong with it that is not electrical.
    const bool starts = reaction == Reaction::Starts;
    const double wrong = m_prospect.oddsOf([starts](const View& view) {
        return std::any_of(view.left.begin(), view.left.end(),
                           [starts](const Fault& f) { return !starts || f.kind != FaultKind::Nothing; });
    });
    // A board that starts after its repair is proof of its own for what no meter shows.
    const double sure = starts ? 0.06 : 0.03;
    if (wrong > sure) return;
    NextMove close{MoveKind::Close,
                   "",
                   say("Close the case with what was found"),
                   say("the rails are up and it starts; the same model comes back with the same fault"),
                   {},
                   1,
                   4};
    close.turn = 0;
    close.end = CaseEnd::Fixed;
    add(std::move(close));
}

double Planner::minutesSpent() const {
    // By the trail's clock, and at least as the moves cost: facts may have been noted all at once, or after
    // breaks. A wired meter reads hundreds of places in the time of a few.
    constexpr double mostByMeter = 30;
    double minutes = std::min(mostByMeter, minutesToRead * static_cast<double>(m_state.readings.size())) +
                     minutesToLookAtHeat * static_cast<double>(m_state.heat.size());
    const auto add = [&](const std::string& name, int times) {
        if (const PartIndex p = partNamed(m_state, name); p >= 0)
            minutes += times * minutesToTry(part(p), m.pace);
    };
    for (const std::string& name : m_state.lifted)
        add(name, 1);
    for (const auto& [name, times] : m_now.mounting)
        add(name, times);
    return std::max(minutes, m.worked_min);
}

bool Planner::paidOff() const {
    constexpr double likely = 0.35;
    const double more = m.fee.whenFixed - m.fee.whenNot;
    // Who is paid alike either way, or by no hour, is told by the worth of going on alone.
    if (!m.belief.found.empty() || m.fee.hourly <= 0 || more <= 0) return true;
    const double paid = 60 * more / m.fee.hourly;
    // Of a part that is lifted the last outcome is the short that goes, of one that is replaced the first the
    // board that starts.
    return minutesSpent() < paid || std::any_of(m_moves.begin(), m_moves.end(), [](const NextMove& move) {
               if (move.outcomes.empty()) return false;
               if (move.kind == MoveKind::Lift) return move.outcomes.back().odds > likely;
               return move.kind == MoveKind::Replace && move.outcomes.front().odds > likely;
           });
}

/// What is open or dead shows in which rails are missing. One of them alone tells little, all of them
/// together nearly everything, and they take a few minutes: nobody gives up before.
NextMove* Planner::railToAskFirst() {
    constexpr double maySo = 0.15;
    const double hidden = m_prospect.oddsOf([](const View& view) {
        return std::any_of(view.left.begin(), view.left.end(), [](const Fault& fault) {
            return fault.kind == FaultKind::Open || fault.kind == FaultKind::Dead;
        });
    });
    if (hidden < maySo) return nullptr;
    NextMove* best = nullptr;
    for (NextMove& move : m_moves)
        if (move.kind == MoveKind::ReadVolts && (!best || move.total() < best->total())) best = &move;
    return best;
}

void Planner::stop() {
    if (std::any_of(m_moves.begin(), m_moves.end(), [](const NextMove& move) { return move.turn == 0; }))
        return;
    if (!paidOff()) {
        NextMove move{MoveKind::Stop, "", {}, {}, {}, 1};
        move.turn = 0;
        move.end = CaseEnd::NotWorthIt;
        move.sentence = say("Stop: not worth it");
        move.reason = say("about {minutes} of work are more than the job pays, and no part is likely",
                          {{"minutes", quantityText(minutesSpent(), "min")}});
        return add(std::move(move));
    }
    const double minutes = m_prospect.minutesNow();
    const bool asks = std::any_of(m_moves.begin(), m_moves.end(), [](const NextMove& each) {
        return each.turn < 3 && each.kind != MoveKind::Lift && each.kind != MoveKind::Replace;
    });
    const bool tries = std::any_of(m_moves.begin(), m_moves.end(), [](const NextMove& each) {
        return each.turn < 3 && (each.kind == MoveKind::Lift || each.kind == MoveKind::Replace);
    });
    // As long as something is left to ask, going on costs less than trying part after part.
    const double best = asks ? minutes : m_prospect.minutesByLifting();
    if ((asks || tries) && m.fee.worthOfGoingOn(repairable(), best) > 0) return;
    // One more move may still pay: what it shows decides whether to go on.
    NextMove* pays = nullptr;
    double most = 0;
    for (NextMove& each : m_moves) {
        if (each.turn > 2) continue;
        double worth = m.fee.worthOfGoingOn(0, each.minutes);
        for (const MoveOutcome& o : each.outcomes)
            worth += o.odds * std::max(0.0, m.fee.worthOfGoingOn(o.repairable, o.minutesAfter));
        if (worth > most) {
            most = worth;
            pays = &each;
        }
    }
    if (pays) {
        pays->turn = 0;
        return;
    }
    if (NextMove* missing = railToAskFirst()) {
        missing->turn = 0;
        return;
    }
    NextMove move{MoveKind::Stop, "", {}, {}, {}, 1};
    move.turn = 0;
    const auto oddsOfKind = [&](const std::function<bool(const Fault&)>& is) {
        return m_prospect.oddsOf(
            [&](const View& view) { return std::any_of(view.left.begin(), view.left.end(), is); });
    };
    const double laminate = oddsOfKind([](const Fault& f) { return f.kind == FaultKind::Unlisted; });
    const double processor = oddsOfKind(
        [&](const Fault& f) { return f.part >= 0 && part(f.part).partClass == PartClass::Processor; });
    constexpr double mostly = 0.5, little = 0.15;
    if (laminate > mostly || processor > mostly) {
        move.end = CaseEnd::NotRepairable;
        move.sentence = say("Stop: not repairable");
        move.reason = laminate > mostly ? say("{odds} that no part of the list shorts the rail: "
                                              "laminate, solder or what no file lists",
                                              {{"odds", percent(laminate)}})
                                        : say("{odds} that the processor itself is shorted",
                                              {{"odds", percent(processor)}});
    } else if (m.stillShorted < little) {
        move.end = CaseEnd::NoShort;
        move.sentence = say("Stop: this is not a short");
        move.reason =
            say("no rail is down, {odds} that something shorts one unseen; an open part or a firmware "
                "fault gives no reaction either",
                {{"odds", percent(m.stillShorted)}});
    } else {
        move.end = CaseEnd::NotWorthIt;
        move.sentence = say("Stop: not worth it");
        move.reason = say("{odds} that it can be repaired, {minutes} expected until then: going on costs "
                          "more than it brings",
                          {{"odds", percent(repairable())}, {"minutes", quantityText(best, "min")}});
    }
    add(std::move(move));
}

} // namespace ustor
