#include "diagnosis/next_moves.h"

#include "base/quantity_text.h"
#include "diagnosis/heat_evidence.h"
#include "diagnosis/knowledge.h"
#include "diagnosis/odds.h"
#include "rail/handy_place.h"

#include <algorithm>
#include <cmath>

namespace ustor {
namespace {

Message percent(double p) {
    if (p > 0.995) return say("more than 99 %");
    return say("{percent} %", {{"percent", std::lround(p * 100)}});
}

std::vector<double> oddsOf(const std::vector<Suspect>& suspects) {
    std::vector<double> odds;
    for (const Suspect& s : suspects)
        odds.push_back(s.odds);
    return odds;
}

/// Expected fall of entropy when one suspect is lifted and the rail measured: a perfect test of p against the
/// rest.
double liftGain(const std::vector<double>& odds, std::size_t i) {
    const double before = entropyBits(odds), p = odds[i];
    if (p <= 0 || p >= 1) return before;
    std::vector<double> rest;
    for (std::size_t j = 0; j < odds.size(); ++j)
        if (j != i) rest.push_back(odds[j] / (1 - p));
    return before - (1 - p) * entropyBits(rest);
}

/// Expected fall when a point is seen with the usual doubt: for each part as the truth, what the heat would
/// leave.
double heatGain(const CaseState& state, const std::vector<Suspect>& suspects,
                const std::vector<double>& odds) {
    const BoardBox box = state.board.box();
    const double area = std::max(1.0, box.width_mm() * box.height_mm());
    double left = 0, seen = 0;
    constexpr int most = 24; // the tail adds little and costs its square
    const int count = std::min<int>(most, static_cast<int>(suspects.size()));
    for (int truth = 0; truth < count; ++truth) {
        if (suspects[truth].part < 0) continue;
        const Part& part = state.board.parts[suspects[truth].part];
        const HeatFound heat{HeatVerdict::Point, part.side, {{part.centre, 0.4, 20, 0, 0}}, ""};
        std::vector<double> logs;
        for (int j = 0; j < count; ++j) {
            const double density =
                suspects[j].part < 0
                    ? 1 / area
                    : heatDensity_per_mm2(heat, state.board.parts[suspects[j].part], {}, area);
            logs.push_back(std::log(std::max(odds[j], 1e-12) * density));
        }
        left += odds[truth] * entropyBits(normalised(logs));
        seen += odds[truth];
    }
    // One recording in five shows nothing useful at the first try (common practice).
    constexpr double works = 0.8;
    return works * std::max(0.0, seen * entropyBits(odds) - left);
}

class Planner {
  public:
    explicit Planner(const Standing& standing)
        : m_standing(standing), m_state(standing.state), m_down(standing.down), m_suspects(standing.suspects),
          m_odds(oddsOf(standing.suspects)) {}

    std::vector<NextMove> moves() {
        if (m_state.closed) return {};
        if (m_state.complaint.empty())
            add({MoveKind::NoteComplaint,
                 "",
                 say("Note what the customer says"),
                 say("the story already moves the odds"),
                 {},
                 1,
                 0.3});
        if (m_down.nets.empty())
            whichRail();
        else if (healed())
            afterTheFind();
        else
            hunt();
        std::stable_sort(m_moves.begin(), m_moves.end(),
                         [](const NextMove& a, const NextMove& b) { return a.worth() > b.worth(); });
        return std::move(m_moves);
    }

  private:
    void add(NextMove move) { m_moves.push_back(std::move(move)); }

    /// The net that a person would call the rail: where its handy place lies.
    std::string railName() const {
        const NetIndex net = netOfPlace(m_state.board, handyPlace(m_state.board, m_down));
        return m_state.board.nets[net >= 0 ? net : m_down.nets.front()].name;
    }

    const Part& part(const Suspect& s) const { return m_state.board.parts[s.part]; }

    /// Every rail not yet read: the one with the most that can short it first.
    void whichRail() {
        if (!m_state.source)
            add({MoveKind::ReadSource,
                 "",
                 say("Plug in through a limited source and read volts and amps"),
                 say("it narrows the fault before anything is opened"),
                 {},
                 1,
                 0.8});
        const auto nets = powerNets(m_state.board, *m_state.netParts);
        const double share = nets.empty() ? 0 : std::log2(1.0 + static_cast<double>(nets.size()));
        double order = 0;
        std::set<NetIndex> covered;
        for (const auto& r : m_state.readings)
            if (r.net >= 0 && !covered.contains(r.net))
                for (const NetIndex n : stretchOf(m_state.board, *m_state.netParts, r.net).nets)
                    covered.insert(n);
        for (const NetIndex net : nets) {
            constexpr double offered = 8; // boards have hundreds of rails; nobody looks further down the list
            if (order >= offered) break;
            if (covered.contains(net)) continue;
            const Stretch stretch = stretchOf(m_state.board, *m_state.netParts, net);
            covered.insert(stretch.nets.begin(), stretch.nets.end());
            const std::string place = handyPlace(m_state.board, stretch);
            add({MoveKind::MeasureRail, place,
                 say("Measure {net} at {place}, power off",
                     {{"net", m_state.board.nets[net].name}, {"place", place}}),
                 say("a rail not read yet; the most parts hang on it"),
                 say("disconnect battery and adapter, discharge the bulk capacitors"), 0.5,
                 share / (2 + order)});
            order += 1;
        }
        if (!covered.empty() && m_moves.empty())
            add({MoveKind::Stop,
                 "",
                 say("No rail is down: this is not a short"),
                 say("an open part or a firmware fault gives no reaction either"),
                 {},
                 5,
                 0.1});
    }

    /// What was read since says that nothing shorts it any more.
    bool healed() const {
        const auto newest = newestReading(m_state, m_down);
        const bool wasWorked = !m_state.off().empty() || !m_state.replaced.empty();
        constexpr double unlikely = 0.15;
        return wasWorked && newest.sinceLift && m_standing.stillShorted < unlikely;
    }

    void afterTheFind() {
        if (m_state.lifted.empty() && !m_state.unplugged.empty() && m_state.replaced.empty())
            return add({MoveKind::Close,
                        "",
                        say("Close here: the short hangs at {part}", {{"part", *m_state.unplugged.begin()}}),
                        say("it is gone with the plug out: the board is free, hunt on what was plugged in"),
                        {},
                        1,
                        4});
        for (const std::string& name : m_state.lifted)
            add({MoveKind::Replace, name,
                 say("Replace {part} with the same value, size and voltage rating", {{"part", name}}),
                 say("the short is gone with it off; a decoupling part is there for load steps"),
                 say("let the board cool before alcohol"), 4, 2});
        if (m_state.lifted.empty()) {
            const auto newest = newestReading(m_state, m_down);
            const bool afterRefit = newest.ruling.state == RailState::Healthy;
            add({MoveKind::ProveRail, railName(), say("First power with a current limit, then every rail"),
                 say("no short before power; watch the steps of the current"),
                 say("stay below the working voltage"), 3, 1});
            if (afterRefit)
                add({MoveKind::Close,
                     "",
                     say("Close the case with what was found"),
                     say("the same model comes back with the same fault"),
                     {},
                     1,
                     4});
        }
    }

    void hunt() {
        const double doubt = entropyBits(m_odds);
        const auto newest = newestReading(m_state, m_down);
        if (!m_state.off().empty() && !newest.sinceLift)
            return add({MoveKind::MeasureAfterLift, handyPlace(m_state.board, m_down),
                        say("Measure {rail} again", {{"rail", railName()}}),
                        say("something less on it: is the short gone?"),
                        m_state.lifted.empty() ? Message() : say("let the board cool first"), 0.5,
                        std::max(doubt, 1.0)});
        if (!m_state.replaced.empty() && m_state.lifted.empty() && !newest.sinceLift)
            add({MoveKind::ProveRail,
                 handyPlace(m_state.board, m_down),
                 say("Measure the rail before power"),
                 say("no short before power"),
                 {},
                 0.5,
                 2});

        const bool looked = !m_state.seen.empty();
        if (!looked)
            add({MoveKind::LookOver,
                 "",
                 say("Look at every part on the rail, both sides, under foam and labels"),
                 say("one short in four shows itself"),
                 {},
                 4,
                 Knowledge::visibleShare * doubt});

        split();
        readAlong();
        bool facing[2] = {false, false};
        for (const auto& heat : m_state.heat)
            facing[heat.found.side == Side::Bottom] = true;
        const Side firstSide = sideToFace();
        if (!facing[firstSide == Side::Bottom])
            add({MoveKind::Inject, handyPlace(m_state.board, m_down),
                 say("Inject into {rail} and watch the {side} side",
                     {{"rail", railName()}, {"side", labelOf(firstSide)}}),
                 say("a few milliwatts in the fault show where it is"),
                 say("leads on solid points; eye protection: a shorted tantalum can burst; no spray near"), 3,
                 heatGain(m_state, m_suspects, m_odds), firstSide});
        else if (!facing[firstSide == Side::Top] && worthTurning(m_state, m_suspects))
            add({MoveKind::TurnOver, "", say("Turn the board over and inject again"),
                 say("this side does not settle it: the warmth may come from the other"),
                 say("the board may be warm"), 4, 0.7 * heatGain(m_state, m_suspects, m_odds),
                 otherSide(firstSide)});
        else if (nothingSeen())
            add({MoveKind::Inject, handyPlace(m_state.board, m_down),
                 say("Raise the voltage by halves and watch the {side} side", {{"side", labelOf(firstSide)}}),
                 say("nothing showed on either side at 1 V; a fault of more ohms takes more volts"),
                 say("each step is held below the rail's limit; eye protection: a shorted tantalum can "
                     "burst"),
                 4, 0.5 * heatGain(m_state, m_suspects, m_odds), firstSide, School::Climb});

        std::size_t offered = 0;
        for (std::size_t i = 0; i < m_suspects.size() && offered < 4; ++i) {
            const Suspect& s = m_suspects[i];
            if (s.part < 0 || s.cleared || m_state.lifted.contains(part(s).designator)) continue;
            const double minutes = Knowledge::minutesToLift(part(s).partClass);
            const std::string& name = part(s).designator;
            const bool end = part(s).partClass == PartClass::Processor;
            // Near certainty nothing tells any more, and what repairs is worth a bit as such.
            constexpr double nearlySure = 0.9;
            add({MoveKind::Lift, name, say("Lift {part} and measure the rail again", {{"part", name}}),
                 say("{odds} that it is the short; lifting takes {minutes}",
                     {{"odds", percent(s.odds)}, {"minutes", quantityText(minutes, "min")}}),
                 end ? say("a shorted processor is the end for most boards: everything else first")
                     : say("hot air: shield plastic, mind the neighbours"),
                 minutes, liftGain(m_odds, i) + (s.odds > nearlySure ? s.odds : 0)});
            ++offered;
        }
    }

    /// What can be unplugged goes first; then the link that halves the doubt for the least work.
    void split() {
        for (std::size_t i = 0; i < std::min<std::size_t>(2, m_standing.unplug.size()); ++i) {
            const UnplugChoice& plug = m_standing.unplug[i];
            const std::string& name = m_state.board.parts[plug.connector].designator;
            constexpr double minutes = 0.7;
            const double gain = entropyBits({plug.odds, 1 - plug.odds});
            add({MoveKind::Unplug,
                 name,
                 say("Unplug what hangs at {part} and measure again", {{"part", name}}),
                 say("gone: it is what was plugged in; still there: that is free"),
                 {},
                 minutes,
                 gain});
        }
        if (m_standing.splits.empty()) return;
        const SplitChoice& best = m_standing.splits.front();
        Message links;
        for (const PartIndex link : best.links) {
            const std::string& name = m_state.board.parts[link].designator;
            links = links.empty() ? verbatim(name)
                                  : say("{parts} and {part}", {{"parts", links}, {"part", name}});
        }
        const std::string& first = m_state.board.parts[best.links.front()].designator;
        add({MoveKind::Split, first, say("Lift {parts} and measure both sides", {{"parts", links}}),
             outcomesOf(m_state.board, best), say("hot air: shield plastic, mind the neighbours"),
             best.minutes + 1, best.gainBits});
    }

    /// Only once somebody has begun to read along the copper: the current is held then.
    void readAlong() {
        if (!m_standing.along || !m_standing.along->finding.readNext) return;
        constexpr double little_bits = 0.1;
        const MillivoltFinding& along = m_standing.along->finding;
        if (along.gain_bits < little_bits) return;
        const std::string place = m_state.board.placeOf(*along.readNext);
        add({MoveKind::ReadAlong, place,
             say("Read the millivolts at {place} while the current flows", {{"place", place}}),
             say("of all pads this one tells most"), say("the board is energised: probes only"), 0.3,
             along.gain_bits});
    }

    /// Every look at the heat ended without any, all of them near one volt.
    bool nothingSeen() const {
        const bool raised = std::any_of(m_state.injections.begin(), m_state.injections.end(),
                                        [](const auto& done) { return done.second.volts > low_v; });
        return !raised && std::all_of(m_state.heat.begin(), m_state.heat.end(), [](const auto& seen) {
            return seen.found.verdict == HeatVerdict::None;
        });
    }

    Side sideToFace() const {
        double top = 0;
        for (const Suspect& s : m_suspects)
            if (s.part >= 0) top += part(s).side == Side::Top ? s.odds : -s.odds;
        // What was seen already does not change which side was to be faced first.
        return m_state.heat.empty() ? (top >= 0 ? Side::Top : Side::Bottom) : m_state.heat.front().found.side;
    }

    static constexpr double low_v = 1.05;

    const Standing& m_standing;
    const CaseState& m_state;
    const Stretch& m_down;
    const std::vector<Suspect>& m_suspects;
    std::vector<double> m_odds;
    std::vector<NextMove> m_moves;
};

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

std::vector<NextMove> nextMoves(const Standing& standing) {
    return Planner(standing).moves();
}

} // namespace ustor
