#include "diagnosis/moves/planner.h"

#include "diagnosis/heat_evidence.h"
#include "diagnosis/odds.h"
#include "rail/handy_place.h"

#include <algorithm>

namespace ustor {

namespace {

/// An injection above that was raised (common practice: near one volt).
constexpr double nearOne_v = 1.05;

} // namespace

bool worthTurning(const CaseState& state, const std::vector<Suspect>& suspects) {
    if (state.heat.empty()) return false;
    const HeatFound& last = state.heat.back().found;
    if (last.verdict != HeatVerdict::Point || suspects.empty()) return true;
    constexpr double standsOut = 0.35, clearSnr = 12;
    if (last.spots.empty() || last.spots.front().snr < clearSnr) return true;
    // Several spots of one strength are the way of the current more than its end.
    constexpr double alike = 0.5;
    if (last.spots.size() > 1 && last.spots[1].snr > alike * last.spots[0].snr) return true;
    const Suspect& first = suspects.front();
    if (first.part < 0 || first.odds < standsOut) return true;
    return state.board.parts[first.part].side != last.side;
}

bool Planner::looked(Side side) const {
    return std::any_of(m_state.heat.begin(), m_state.heat.end(), [&](const auto& heat) {
        const NetIndex net = m_board.findNet(heat.found.net);
        return heat.found.side == side && heat.then->off == m_now.off &&
               heat.then->generation == m_now.generation &&
               (net < 0 || m.down.holds(net) || m.circuit.railOf(net) == m_hunted);
    });
}

const Fault* Planner::warmed(const View& view) const {
    for (const Fault& fault : view.left)
        if (shorts(fault, m_hunted) || breaksDown(fault, m_hunted)) return &fault;
    return nullptr;
}

void Planner::weighHeat(NextMove& move, Side side, double works) const {
    constexpr double facingShows = 0.85, otherShows = 0.45;
    constexpr std::size_t most = 24; // the tail adds little and costs its square
    const auto& views = m_prospect.views();
    const BoardBox box = m_board.box();
    const double area = std::max(1.0, box.width_mm() * box.height_mm());
    Given dark(views.size(), 1.0);
    double seen = 0, after = 0, bright = 0;
    std::map<PartIndex, Given> densities; // by the part that shone
    std::size_t done = 0;
    for (std::size_t i = 0; i < views.size(); ++i) {
        const Fault* fault = warmed(views[i]);
        if (!fault || fault->part < 0) continue;
        const Part& own = part(fault->part);
        const double shows = works * (own.side == side ? facingShows : otherShows);
        dark[i] = 1 - shows;
        const double odds = views[i].odds * shows;
        seen += odds;
        if (views[i].repairable) bright += odds;
        if (++done > most && !densities.contains(fault->part)) {
            after += odds * 2 * (minutesToTry(own, m.pace) + minutesToPutBack);
            continue;
        }
        auto [known, fresh] = densities.try_emplace(fault->part);
        if (fresh) {
            const bool facing = own.side == side;
            const HeatFound heat{facing ? HeatVerdict::Point : HeatVerdict::FarSide,
                                 side,
                                 {{own.centre, facing ? 0.4 : 1.5, 20, 0, 0}},
                                 ""};
            for (std::size_t k = 0; k < views.size(); ++k) {
                const Fault* other = warmed(views[k]);
                known->second.push_back(other && other->part >= 0
                                            ? heatDensity_per_mm2(heat, part(other->part), {}, area) * area
                                            : 0.1);
            }
        }
        double sum = 0;
        for (std::size_t k = 0; k < views.size(); ++k)
            sum += views[k].odds * known->second[k];
        after += odds * m_prospect.weightedMinutes(known->second) / std::max(sum, 1e-12);
    }
    Message shown = say("a spot shows where it is");
    if (seen > 0) move.outcomes.push_back({shown, seen, after / seen, bright / seen});
    move.minutesAfter = after + m_prospect.add(move.outcomes, say("nothing shows"), dark);
    std::vector<double> all;
    for (const View& view : views)
        all.push_back(view.odds);
    constexpr double left = 0.7; // a spot names one part most of the time
    move.gainBits = seen * left * entropyBits(all);
}

Side Planner::sideToFace() const {
    double top = 0;
    for (const View& view : m_prospect.views())
        if (const Fault* fault = warmed(view); fault && fault->part >= 0)
            top += part(fault->part).side == Side::Top ? view.odds : -view.odds;
    return top >= 0 ? Side::Top : Side::Bottom;
}

void Planner::inject() {
    if (!m.tools.supply || !m.tools.camera) return;
    // Never into a rail that no meter has read without power: what it takes has to be foreseen.
    const bool read = std::any_of(m_state.readings.begin(), m_state.readings.end(), [&](const auto& r) {
        return r.taken.reading.mode != MeterMode::Volts && m.circuit.railOf(r.net) == m_hunted;
    });
    if (!read) return;
    const std::string place = handyPlace(m_board, m.down);
    const bool top = looked(Side::Top), bottom = looked(Side::Bottom);
    if (!top && !bottom) {
        const Side side = sideToFace();
        NextMove move{
            MoveKind::Inject,
            place,
            say("Inject into {rail} and watch the {side} side",
                {{"rail", railName()}, {"side", labelOf(side)}}),
            say("a few milliwatts in the fault show where it is"),
            say("leads on solid points; eye protection: a shorted tantalum can burst; no spray near"),
            minutesToLookAtHeat};
        move.side = side;
        weighHeat(move, side, 1);
        add(std::move(move));
    } else if (top != bottom) {
        if (!worthTurning(m_state, m.suspects)) return;
        NextMove move{MoveKind::TurnOver,
                      "",
                      say("Turn the board over and inject again"),
                      say("this side does not settle it: the warmth may come from the other"),
                      say("the board may be warm"),
                      4};
        move.side = top ? Side::Bottom : Side::Top;
        weighHeat(move, move.side, 0.7);
        add(std::move(move));
    } else if (nothingSeen()) {
        const Side side = sideToFace();
        climb(place, side, 0.5,
              say("Raise the voltage by halves and watch the {side} side", {{"side", labelOf(side)}}),
              say("nothing showed on either side at 1 V; a fault of more ohms takes more volts"));
    }
}

void Planner::watchFlares() {
    const bool tries = !m_state.sources.empty() &&
                       m_state.sources.back().shows.reaction == Reaction::Pulses &&
                       *m_state.sources.back().then == m_now;
    if (!m.tools.camera || !tries || !mayPower()) return;
    const auto watched = [&](Side side) {
        return std::any_of(m_state.heat.begin(), m_state.heat.end(), [&](const auto& heat) {
            return heat.found.side == side && heat.found.net.empty() && *heat.then == m_now;
        });
    };
    const auto isPowered = [&](const View& view, Side side) {
        return std::any_of(view.left.begin(), view.left.end(), [&](const Fault& f) {
            return f.conductsUnderPower() && f.part >= 0 && part(f.part).side == side;
        });
    };
    double top = 0, bottom = 0;
    for (const View& view : m_prospect.views()) {
        if (isPowered(view, Side::Top)) top += view.odds;
        if (isPowered(view, Side::Bottom)) bottom += view.odds;
    }
    const Side first = top >= bottom ? Side::Top : Side::Bottom,
               other = first == Side::Top ? Side::Bottom : Side::Top;
    if (watched(first) && watched(other)) return;
    const Side side = watched(first) ? other : first;
    NextMove move{MoveKind::WatchFlares,
                  "",
                  say("Watch the {side} side while it tries to start", {{"side", labelOf(side)}}),
                  say("the current comes in pulses: what is shorted becomes warm with each try"),
                  say("a live board: hands off, and a limit set at its source"),
                  minutesToLookAtHeat};
    move.side = side;
    constexpr double shows = 0.5, stray = 0.05;
    double seen = 0, after = 0;
    for (const View& view : m_prospect.views()) {
        const double its = view.odds * (isPowered(view, side) ? shows : stray);
        seen += its;
        after +=
            its * (view.parts.empty() ? unlistedMinutes
                                      : minutesToTry(part(view.parts.front()), m.pace) + minutesToPutBack);
    }
    const double now = m_prospect.minutesNow();
    move.minutesAfter = after + (1 - seen) * now;
    move.outcomes = {{say("a part becomes warm with each try"), seen, seen > 0 ? after / seen : 0, 1},
                     {say("nothing comes and goes"), 1 - seen, now, repairable()}};
    std::vector<double> odds;
    for (const View& view : m_prospect.views())
        odds.push_back(view.odds);
    move.gainBits = seen * entropyBits(odds);
    add(std::move(move));
}

int Planner::railThatBreaksDown() const {
    std::map<int, double> rails;
    for (const View& view : m_prospect.views())
        for (const Fault& fault : view.left)
            if (fault.kind == FaultKind::Breakdown) rails[m.circuit.railOf(fault.a)] += view.odds;
    int best = -1;
    constexpr double worthALook = 0.05;
    double most = worthALook;
    for (const auto& [rail, odds] : rails)
        if (rail >= 0 && isRead(rail) && odds > most) {
            best = rail;
            most = odds;
        }
    return best;
}

void Planner::injectUnderVoltage() {
    if (!m.tools.supply || !m.tools.camera || m_hunted >= 0) return;
    const int rail = railThatBreaksDown();
    if (rail < 0) return;
    m_hunted = rail;
    const auto raised = [&](Side side) {
        return std::any_of(m_state.heat.begin(), m_state.heat.end(), [&](const auto& heat) {
            return heat.found.side == side && *heat.then == m_now &&
                   m.circuit.railOf(m_board.findNet(heat.found.net)) == rail &&
                   injectedVolts(m_state, heat).value_or(0) > nearOne_v;
        });
    };
    const Side first = sideToFace(), other = first == Side::Top ? Side::Bottom : Side::Top;
    if (raised(first) && raised(other)) return;
    const Side side = raised(first) ? other : first;
    const NetIndex net = handyNet(rail);
    constexpr double works = 0.6; // it has to begin to conduct below the rail's limit
    climb(handyPlace(m_board, *m_state.netParts, net), side, works,
          say("Inject into {rail}, raise the voltage by halves and watch the {side} side",
              {{"rail", m_board.nets[net].name}, {"side", labelOf(side)}}),
          say("no meter finds a capacitor that shorts only under voltage"));
}

void Planner::climb(const std::string& place, Side side, double works, Message sentence, Message reason) {
    NextMove move{MoveKind::Inject,
                  place,
                  std::move(sentence),
                  std::move(reason),
                  say("each step is held below the rail's limit; eye protection: a shorted tantalum can "
                      "burst"),
                  4};
    move.side = side;
    move.school = School::Climb;
    weighHeat(move, side, works);
    add(std::move(move));
}

bool Planner::nothingSeen() const {
    const bool raised = std::any_of(m_state.injections.begin(), m_state.injections.end(),
                                    [](const auto& done) { return done.second.volts > nearOne_v; });
    return !raised && std::all_of(m_state.heat.begin(), m_state.heat.end(),
                                  [](const auto& seen) { return seen.found.verdict == HeatVerdict::None; });
}

} // namespace ustor
