#include "diagnosis/moves/planner.h"

#include "rail/handy_place.h"

#include <algorithm>
#include <tuple>

namespace ustor {

void Planner::afterWork() {
    if (m.down.nets.empty() || (m_state.off().empty() && m_state.replaced.empty())) return;
    const auto newest = newestReading(m_state, m.down);
    const int rail = m_hunted;
    const bool read =
        newest.sinceLift ||
        (rail >= 0 && std::any_of(m_readings[static_cast<std::size_t>(rail)].begin(),
                                  m_readings[static_cast<std::size_t>(rail)].end(), [&](const auto* r) {
                                      return m.down.holds(r->net) && asNow(*r) &&
                                             r->taken.reading.mode != MeterMode::Volts;
                                  }));
    if (read) return;
    const std::string place = handyPlace(m_board, m.down);
    const bool refitted = m_state.off().empty();
    NextMove move{refitted ? MoveKind::ProveRail : MoveKind::MeasureAfterLift,
                  place,
                  refitted ? say("Measure {rail} before power", {{"rail", railName()}})
                           : say("Measure {rail} again", {{"rail", railName()}}),
                  refitted ? say("no short before power") : say("something less on it: is the short gone?"),
                  m_state.lifted.empty() ? Message() : say("let the board cool first"),
                  minutesToRead};
    move.turn = 0;
    move.mode = newestMode(rail);
    weigh(move, given([&](const View& view) { return rail < 0 ? 0.5 : lowShare(rail, view); }),
          say("it still reads short: what is off is free"), say("the short went with it"));
    add(std::move(move));
}

void Planner::measureRails() {
    /// A rail that has something to tell.
    struct Asked {
        int rail;
        std::set<MeterMode> modes; ///< in which it was read as the board stands
        bool readLow, open, everRead;
        Given low;
        double odds; ///< that it reads low
    };
    std::vector<Asked> asked;
    for (const int rail : m_power) {
        std::set<MeterMode> modes;
        int times = 0;
        bool low = false, open = false, everRead = false, worked = false;
        for (const auto* r : m_readings[static_cast<std::size_t>(rail)]) {
            const auto reads = readsLow(r->taken.reading);
            if (!reads) continue;
            everRead = true;
            if (!asNow(*r)) continue;
            modes.insert(r->taken.reading.mode);
            ++times;
            worked = worked || !r->then->off.empty();
            low = low || *reads;
            open = open || r->taken.reading.state == ReadingState::OverRange;
        }
        if (modes.size() > 1) continue;
        // A second reading in another mode: what made the first one low makes this one so too, but a slip.
        Given yes =
            given([&](const View& view) { return everRead ? lowShare(rail, view) : saysShort(rail, view); });
        double odds = 0;
        for (std::size_t i = 0; i < yes.size(); ++i)
            odds += m_prospect.views()[i].odds * yes[i];
        // One reading that is free settles a rail; but what came off is not guilty by a slip of the probe.
        constexpr double doubted = 0.05;
        const bool again = times == 1 && worked && odds > doubted;
        if (modes.size() == 1 && !low && !open && !again) continue;
        constexpr double atRisk = 0.004;
        m_unread = m_unread || (modes.empty() && odds > atRisk);
        asked.push_back({rail, std::move(modes), low, open, everRead, std::move(yes), odds});
    }
    // Boards have hundreds of rails: those that are least in doubt are not weighed.
    constexpr std::size_t mostWeighed = 40, mostOffered = 8;
    std::stable_sort(asked.begin(), asked.end(),
                     [](const Asked& a, const Asked& b) { return a.odds > b.odds; });
    if (asked.size() > mostWeighed) asked.resize(mostWeighed);
    std::vector<NextMove> found;
    for (const Asked& each : asked) {
        NextMove move = readingOf(each.rail);
        if (!each.modes.empty()) {
            const NetIndex net = handyNet(each.rail);
            if (each.modes.contains(MeterMode::Ohms)) move.mode = MeterMode::Diode;
            move.sentence =
                say("Measure {net} at {place} once more, in {mode}",
                    {{"net", m_board.nets[net].name}, {"place", move.place}, {"mode", labelOf(move.mode)}});
            move.reason = each.open
                              ? say("OL is first of all a probe that does not touch: press, and read again")
                          : each.readLow ? say("one low reading may be a slip of the probe")
                                         : say("one free reading may be a slip of the probe");
        } else if (each.everRead)
            move.reason = say("not read since the board was worked on");
        weighReading(move, each.rail, each.low, each.everRead);
        found.push_back(std::move(move));
    }
    offer(std::move(found), mostOffered);
}

void Planner::weighReading(NextMove& move, int rail, const Given& low, bool everRead) const {
    if (!everRead && lowByNature(rail))
        return weigh(move, low, say("it reads next to nothing: less than its chips alone"),
                     say("it reads as low as its chips do"));
    weigh(move, low, say("it reads low: the hunt goes on there"), say("it is free of shorts"));
}

NextMove Planner::readingOf(int rail) const {
    const NetIndex net = handyNet(rail);
    const std::string place = handyPlace(m_board, *m_state.netParts, net);
    NextMove move{
        MoveKind::MeasureRail,
        place,
        say("Measure {net} at {place}, power off", {{"net", m_board.nets[net].name}, {"place", place}}),
        say("a rail not read yet"),
        say("disconnect battery and adapter, discharge the bulk capacitors"),
        minutesToRead};
    move.mode = MeterMode::Ohms;
    return move;
}

bool Planner::isRead(int rail) const {
    const auto& readings = m_readings[static_cast<std::size_t>(rail)];
    return std::any_of(readings.begin(), readings.end(),
                       [&](const auto* r) { return r->taken.reading.mode != MeterMode::Volts && asNow(*r); });
}

void Planner::readFirst(int rail, int turn) {
    const auto reads = [&](const NextMove& move) {
        return (move.kind == MoveKind::MeasureRail || move.kind == MoveKind::MeasureAfterLift ||
                move.kind == MoveKind::ProveRail) &&
               m.circuit.railOf(netOfPlace(m_board, move.place)) == rail;
    };
    const auto found = std::find_if(m_moves.begin(), m_moves.end(), reads);
    if (found != m_moves.end()) {
        found->turn = std::min(found->turn, turn);
        return;
    }
    NextMove move = readingOf(rail);
    const bool everRead = !m_readings[static_cast<std::size_t>(rail)].empty();
    weighReading(move, rail, given([&](const View& view) {
                     return everRead ? lowShare(rail, view) : saysShort(rail, view);
                 }),
                 everRead);
    move.turn = turn;
    price(move);
    m_moves.push_back(std::move(move));
}

bool Planner::onNet(const View& view, NetIndex net) {
    return std::any_of(view.left.begin(), view.left.end(),
                       [net](const Fault& f) { return f.conducts() && !f.through() && f.a == net; });
}

void Planner::across() {
    struct Ends {
        PartIndex part;
        NetIndex a, b;
        bool through;
        bool operator<(const Ends& o) const {
            return std::tie(part, a, b, through) < std::tie(o.part, o.a, o.b, o.through);
        }
    };
    std::map<Ends, double> odds;
    for (const View& view : m_prospect.views())
        for (const Fault& fault : view.left) {
            if (fault.part < 0) continue;
            const Part& link = part(fault.part);
            if (fault.through())
                odds[{fault.part, fault.a, fault.b, true}] += view.odds;
            else if (fault.kind == FaultKind::Open && isLink(link) && link.pads.size() > 1)
                odds[{fault.part, link.pads.front().net, link.pads.back().net, false}] += view.odds;
            else if (fault.kind == FaultKind::Open && link.partClass == PartClass::Mosfet)
                // Its body diode is gone as well: black on its cathode, red on its anode.
                for (const Branch& branch : m.circuit.branches())
                    if (branch.part == fault.part && branch.ohms == 0 && branch.a >= 0 && branch.b >= 0)
                        odds[{fault.part, branch.b, branch.a, false}] += view.odds;
        }
    std::vector<NextMove> found;
    for (const auto& each : odds) {
        // An open link is found for good in half a minute, against what a hunt costs that finds nothing.
        constexpr double worthIt = 0.02, openWorthIt = 0.006;
        const Ends ends = each.first;
        const double p = each.second;
        const Part& link = part(ends.part);
        if (p < (ends.through ? worthIt : openWorthIt) || ends.a < 0 || ends.b < 0 ||
            m_state.lifted.contains(link.designator))
            continue;
        const std::string from = padOn(link, ends.a), to = padOn(link, ends.b);
        const bool byDiode = !ends.through && !isLink(link);
        const bool read = std::any_of(m_state.readings.begin(), m_state.readings.end(), [&](const auto& r) {
            if (byDiode != (r.taken.reading.mode == MeterMode::Diode)) return false;
            return ((r.net == ends.a && r.against == ends.b) || (r.net == ends.b && r.against == ends.a)) &&
                   asNow(r);
        });
        if (read || from.empty() || to.empty()) continue;
        NextMove move{MoveKind::MeasureAcross,
                      from,
                      byDiode ? say("Diode test across {part}: black on {from}, red on {to}",
                                    {{"part", link.designator}, {"from", from}, {"to", to}})
                              : say("Measure across {part}, from {from} to {to}",
                                    {{"part", link.designator}, {"from", from}, {"to", to}}),
                      ends.through ? say("{odds} that it is punched through", {{"odds", percent(p)}})
                                   : say("{odds} that it is open", {{"odds", percent(p)}}),
                      say("disconnect battery and adapter, discharge the bulk capacitors"),
                      minutesToRead};
        move.against = to;
        if (byDiode) move.mode = MeterMode::Diode;
        weigh(move, given([&](const View& view) {
                  constexpr double shows = 0.95, slip = 0.02;
                  const bool so = std::any_of(view.left.begin(), view.left.end(), [&](const Fault& f) {
                      if (!ends.through) return f.kind == FaultKind::Open && f.part == ends.part;
                      return f.through() &&
                             ((f.a == ends.a && f.b == ends.b) || (f.a == ends.b && f.b == ends.a));
                  });
                  // Two shorts to ground in a row conduct as well.
                  const bool both = ends.through && onNet(view, ends.a) && onNet(view, ends.b);
                  return so || both ? shows : slip;
              }),
              ends.through ? say("it conducts: it is punched through") : say("it is open"),
              ends.through ? say("it does not") : say("it conducts"));
        found.push_back(std::move(move));
    }
    offer(std::move(found), 3);
}

} // namespace ustor
