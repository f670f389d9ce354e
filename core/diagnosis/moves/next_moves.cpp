#include "diagnosis/moves/next_moves.h"

#include "base/quantity_text.h"
#include "diagnosis/evidence/power_items.h"
#include "diagnosis/evidence/power_levels.h"
#include "diagnosis/heat_evidence.h"
#include "diagnosis/hypothesis/presence.h"
#include "diagnosis/hypothesis/words.h"
#include "diagnosis/moves/cost_to_repair.h"
#include "diagnosis/odds.h"
#include "rail/handy_place.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <iterator>
#include <map>
#include <set>
#include <tuple>

namespace ustor {
namespace {

Message percent(double p) {
    if (p > 0.995) return say("more than 99 %");
    return say("{percent} %", {{"percent", std::lround(p * 100)}});
}

/// Below that a rail reads low, whatever the mode (common practice: a beep, a tenth of a volt).
constexpr double low_ohms = 30, low_v = 0.1;
/// An injection above that was raised (common practice: near one volt).
constexpr double nearOne_v = 1.05;

std::optional<bool> readsLow(const Reading& reading) {
    if (reading.mode == MeterMode::Volts) return std::nullopt;
    if (reading.state == ReadingState::OverRange) return false;
    return reading.value < (reading.mode == MeterMode::Diode ? low_v : low_ohms);
}

class Planner {
  public:
    using View = Prospect::View;
    using Given = std::vector<double>;

    explicit Planner(const Standing& standing)
        : m(standing), m_state(standing.state), m_board(standing.state.board), m_now(*standing.state.now),
          m_prospect(standing.state, standing.belief) {
        const auto& rails = m.circuit.rails();
        m_ownLow.resize(rails.size());
        for (std::size_t r = 0; r < rails.size(); ++r)
            for (const LoadLevel& level : rails[r].levels)
                if (level.ohms <= low_ohms) m_ownLow[r] += level.share;
        for (const NetIndex net : powerNets(m_board, *m_state.netParts))
            if (const int rail = m.circuit.railOf(net); rail >= 0) m_power.insert(rail);
        m_readings.resize(rails.size());
        for (const auto& r : m_state.readings)
            if (const int rail = m.circuit.railOf(r.net); rail >= 0 && r.taken.against.empty())
                m_readings[static_cast<std::size_t>(rail)].push_back(&r);
        // Of a rail that is read again and again the newest tell.
        constexpr std::size_t newest = 40;
        for (auto& readings : m_readings)
            if (readings.size() > newest) readings.erase(readings.begin(), readings.end() - newest);
    }

    /// Of the rails that the hunt is about, which may be several that a switch joins, the likeliest.
    void chooseRail() {
        double most = -1;
        for (const NetIndex net : m.down.nets) {
            const int rail = m.circuit.railOf(net);
            if (rail < 0 || rail == m_hunted) continue;
            const double odds = m_prospect.oddsOf([&](const View& view) {
                return std::any_of(view.left.begin(), view.left.end(),
                                   [&](const Fault& f) { return shorts(f, rail); });
            });
            if (odds > most) {
                most = odds;
                m_hunted = rail;
            }
        }
    }

    std::vector<NextMove> moves() {
        if (m_state.closed) return {};
        chooseRail();
        story();
        afterWork();
        measureRails();
        across();
        volts();
        powerAgain();
        if (!m.down.nets.empty()) {
            lookOver();
            split();
            unplug();
            readAlong();
            inject();
        }
        lifts();
        replacements();
        refit();
        prove();
        stop();
        // The complaint and the first look cost next to nothing, and come before anything is touched.
        std::stable_sort(m_moves.begin(), m_moves.end(), [](const NextMove& a, const NextMove& b) {
            return a.turn != b.turn ? a.turn < b.turn : (a.turn == 1 || a.turn == 2) && a.total() < b.total();
        });
        return std::move(m_moves);
    }

  private:
    /// What tells less than it costs stands behind all else, and is never the first.
    void add(NextMove move) {
        constexpr double least_bitsPerMinute = 0.2, nothing_bitsPerMinute = 0.02;
        const bool asks =
            !move.outcomes.empty() && move.kind != MoveKind::Lift && move.kind != MoveKind::Replace;
        if (move.turn == 1 && asks && move.worth() < least_bitsPerMinute)
            move.turn = move.worth() < nothing_bitsPerMinute ? 3 : 2;
        m_moves.push_back(std::move(move));
    }

    Given given(const std::function<double(const View&)>& likelihood) const {
        Given all;
        for (const View& view : m_prospect.views())
            all.push_back(likelihood(view));
        return all;
    }

    /// Two outcomes, one the contrary of the other.
    void weigh(NextMove& move, const Given& yes, const Message& ifSo, const Message& ifNot,
               PartIndex off = -1) const {
        Given no;
        for (const double p : yes)
            no.push_back(1 - p);
        move.minutesAfter =
            m_prospect.add(move.outcomes, ifSo, yes, off) + m_prospect.add(move.outcomes, ifNot, no, off);
        move.gainBits = m_prospect.gainBits({yes, no});
    }

    const Part& part(PartIndex p) const { return m_board.parts[static_cast<std::size_t>(p)]; }
    /// The net that a person would call the rail: where its handy place lies.
    std::string railName() const {
        const NetIndex net = netOfPlace(m_board, handyPlace(m_board, m.down));
        return m_board.nets[net >= 0 ? net : m.down.nets.front()].name;
    }
    /// Nothing on the rail of the reading was taken off, put back or replaced since.
    bool asNow(const CaseState::TakenReading& r) const {
        if (r.then == m_state.now) return true;
        const int rail = m.circuit.railOf(r.net);
        const auto [known, fresh] = m_asNow.try_emplace({r.then.get(), rail}, false);
        if (fresh) known->second = stoodAsNow(r, rail);
        return known->second;
    }
    bool stoodAsNow(const CaseState::TakenReading& r, int rail) const {
        const auto touches = [&](const std::string& name) {
            const PartIndex p = partNamed(m_state, name);
            return p < 0 || rail < 0 ||
                   std::any_of(part(p).pads.begin(), part(p).pads.end(),
                               [&](const Pad& pad) { return m.circuit.railOf(pad.net) == rail; });
        };
        const auto count = [](const std::map<std::string, int>& counts, const std::string& name) {
            const auto found = counts.find(name);
            return found == counts.end() ? 0 : found->second;
        };
        std::set<std::string> changed;
        std::set_symmetric_difference(r.then->off.begin(), r.then->off.end(), m_now.off.begin(),
                                      m_now.off.end(), std::inserter(changed, changed.end()));
        for (const auto& [name, times] : m_now.mounting)
            if (count(r.then->mounting, name) != times) changed.insert(name);
        for (const auto& [name, times] : m_now.generation)
            if (count(r.then->generation, name) != times) changed.insert(name);
        return std::none_of(changed.begin(), changed.end(), touches);
    }
    bool shorts(const Fault& fault, int rail) const {
        return fault.conducts() && (m.circuit.railOf(fault.a) == rail || m.circuit.railOf(fault.b) == rail);
    }

    // What readings would show ------------------------------------------------------------------------------

    /// How likely the rail reads low with what is left on it but for one part.
    double lowShare(int rail, const View& view, PartIndex without = -1) const {
        constexpr double shows = 0.94;
        double low = ownLow(rail, view);
        for (const Fault& fault : view.left) {
            if (!shorts(fault, rail) || (without >= 0 && fault.part == without)) continue;
            if (!fault.through()) return shows;
            const int a = m.circuit.railOf(fault.a), b = m.circuit.railOf(fault.b);
            const int other = a == rail ? b : a;
            if (other >= 0 && other != rail) low = std::max(low, m_ownLow[static_cast<std::size_t>(other)]);
        }
        return low;
    }

    /// The rail by itself: what it was read at counts where this view has nothing else to explain it.
    double ownLow(int rail, const View& view) const {
        const auto& readings = m_readings[static_cast<std::size_t>(rail)];
        for (auto at = readings.rbegin(); at != readings.rend(); ++at) {
            const auto low = readsLow((*at)->taken.reading);
            if (!low) continue;
            const bool explained = std::any_of(view.left.begin(), view.left.end(),
                                               [&](const Fault& fault) { return shorts(fault, rail); });
            if (explained) break;
            if (*low && !asNow(**at)) break; // something else may have shorted it then
            constexpr double again = 0.9, never = 0.03;
            return *low ? again : never;
        }
        return m_ownLow[static_cast<std::size_t>(rail)];
    }

    // The moves ---------------------------------------------------------------------------------------------

    void story() {
        if (m_state.complaint.empty()) {
            // First of all; once the hunt is on it waits.
            const bool begun = !m_state.sources.empty() || !m_state.readings.empty() || !m_state.heat.empty();
            add({MoveKind::NoteComplaint,
                 "",
                 say("Note what the customer says"),
                 say("the story already moves the odds"),
                 {},
                 1,
                 0.3,
                 m_prospect.minutesNow(),
                 {},
                 begun ? 2 : 0});
        }
        if (!m_state.sources.empty() || !m_state.readings.empty() || !m_state.heat.empty()) return;
        NextMove move{MoveKind::ReadSource,
                      "",
                      say("Plug in through a limited source and read volts and amps"),
                      say("it narrows the fault before anything is opened"),
                      {},
                      1};
        move.turn = 0;
        std::vector<Given> outcomes(plugIns);
        for (const View& view : m_prospect.views()) {
            const PlugInShares shares = plugInShares(view.left, m_state, m_now, m.circuit, m.feed);
            double sum = 0;
            for (const double share : shares)
                sum += share;
            for (std::size_t i = 0; i < plugIns; ++i)
                outcomes[i].push_back(shares[i] / sum);
        }
        for (std::size_t i = 0; i < plugIns; ++i)
            move.minutesAfter += m_prospect.add(move.outcomes, labelOf(static_cast<PlugIn>(i)), outcomes[i]);
        move.gainBits = m_prospect.gainBits(outcomes);
        add(std::move(move));
    }

    /// Something is off or new on the rail of the hunt, and nobody has read it since.
    void afterWork() {
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
                      refitted ? say("no short before power")
                               : say("something less on it: is the short gone?"),
                      m_state.lifted.empty() ? Message() : say("let the board cool first"),
                      0.5};
        move.turn = 0;
        move.mode = newestMode(rail);
        weigh(move, given([&](const View& view) { return rail < 0 ? 0.5 : lowShare(rail, view); }),
              say("it still reads short: what is off is free"), say("the short went with it"));
        add(std::move(move));
    }

    MeterMode newestMode(int rail) const {
        if (rail >= 0)
            for (auto at = m_readings[static_cast<std::size_t>(rail)].rbegin();
                 at != m_readings[static_cast<std::size_t>(rail)].rend(); ++at)
                if (const MeterMode mode = (*at)->taken.reading.mode; mode != MeterMode::Volts) return mode;
        return MeterMode::Ohms;
    }

    /// A rail as it is offered to be measured: its net with the most parts.
    NetIndex handyNet(int rail) const {
        NetIndex best = -1;
        std::size_t most = 0;
        for (const NetIndex net : m.circuit.rails()[static_cast<std::size_t>(rail)].nets) {
            const std::size_t weight =
                m_state.netParts->on(net).size() + (m_board.nets[net].nominal ? 1000 : 0);
            if (best < 0 || weight > most) {
                best = net;
                most = weight;
            }
        }
        return best;
    }

    /// Rails not read yet as the board stands, and those whose one reading another mode would confirm.
    void measureRails() {
        std::vector<NextMove> found;
        for (const int rail : m_power) {
            std::set<MeterMode> modes;
            bool low = false, open = false, everRead = false;
            for (const auto* r : m_readings[static_cast<std::size_t>(rail)]) {
                const auto reads = readsLow(r->taken.reading);
                if (!reads) continue;
                everRead = true;
                if (!asNow(*r)) continue;
                modes.insert(r->taken.reading.mode);
                low = low || *reads;
                open = open || r->taken.reading.state == ReadingState::OverRange;
            }
            if (modes.size() > 1 || (modes.size() == 1 && !low && !open)) continue;
            const NetIndex net = handyNet(rail);
            const std::string place = handyPlace(m_board, *m_state.netParts, net);
            NextMove move{MoveKind::MeasureRail,
                          place,
                          {},
                          {},
                          say("disconnect battery and adapter, discharge the bulk capacitors"),
                          0.5};
            move.mode = modes.contains(MeterMode::Ohms) ? MeterMode::Diode : MeterMode::Ohms;
            move.sentence =
                modes.empty()
                    ? say("Measure {net} at {place}, power off",
                          {{"net", m_board.nets[net].name}, {"place", place}})
                    : say("Measure {net} at {place} once more, in {mode}",
                          {{"net", m_board.nets[net].name}, {"place", place}, {"mode", labelOf(move.mode)}});
            move.reason = open ? say("OL is first of all a probe that does not touch: press, and read again")
                          : !modes.empty() ? say("one low reading may be a slip of the probe")
                          : everRead       ? say("not read since the board was worked on")
                                           : say("a rail not read yet");
            const Given yes = given([&](const View& view) {
                // A second reading in another mode: what made the first one low makes this one so too, but a
                // slip.
                return lowShare(rail, view);
            });
            weigh(move, yes, say("it reads low: the hunt goes on there"), say("it is free of shorts"));
            found.push_back(std::move(move));
        }
        offer(std::move(found), 8); // boards have hundreds of rails
    }

    /// Half a minute from pad to pad: a link that may be open, a switch that may be punched through.
    void across() {
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
            constexpr double worthIt = 0.02;
            const Ends ends = each.first;
            const double p = each.second;
            const Part& link = part(ends.part);
            if (p < worthIt || ends.a < 0 || ends.b < 0 || m_state.lifted.contains(link.designator)) continue;
            const std::string from = padOn(link, ends.a), to = padOn(link, ends.b);
            const bool byDiode = !ends.through && !isLink(link);
            const bool read =
                std::any_of(m_state.readings.begin(), m_state.readings.end(), [&](const auto& r) {
                    if (byDiode != (r.taken.reading.mode == MeterMode::Diode)) return false;
                    return ((r.net == ends.a && r.against == ends.b) ||
                            (r.net == ends.b && r.against == ends.a)) &&
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
                          0.5};
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

    static bool onNet(const View& view, NetIndex net) {
        return std::any_of(view.left.begin(), view.left.end(),
                           [net](const Fault& f) { return f.conducts() && !f.through() && f.a == net; });
    }
    /// A pad of the part on that net that a person can name: no other net answers to it.
    std::string padOn(const Part& of, NetIndex net) const {
        for (const Pad& pad : of.pads) {
            std::string place = of.designator + "." + pad.pin;
            if (pad.net == net && netOfPlace(m_board, place) == net) return place;
        }
        return {};
    }
    /// The best of them: nobody looks further down the list.
    void offer(std::vector<NextMove> found, std::size_t most) {
        std::stable_sort(found.begin(), found.end(),
                         [](const NextMove& a, const NextMove& b) { return a.total() < b.total(); });
        if (found.size() > most) found.resize(most);
        for (NextMove& move : found)
            add(std::move(move));
    }

    /// How likely the one rail is shorted that is likeliest so.
    double worstRail() const {
        std::map<int, double> rails;
        for (const View& view : m_prospect.views()) {
            std::set<int> on;
            for (const Fault& fault : view.left)
                if (fault.conducts()) on.insert({m.circuit.railOf(fault.a), m.circuit.railOf(fault.b)});
            for (const int rail : on)
                if (rail >= 0) rails[rail] += view.odds;
        }
        double worst = 0;
        for (const auto& [rail, odds] : rails)
            worst = std::max(worst, odds);
        return worst;
    }

    /// With a limited current, where no rail is all but sure to be shorted; a capacitor that is off for the
    /// look may stay off for minutes.
    bool mayPower() const {
        constexpr double likely = 0.6;
        return m.tools.supply && worstRail() < likely &&
               std::all_of(m_state.lifted.begin(), m_state.lifted.end(), [&](const std::string& name) {
                   const PartIndex p = partNamed(m_state, name);
                   return p >= 0 && (part(p).partClass == PartClass::CeramicCapacitor ||
                                     part(p).partClass == PartClass::PolarCapacitor ||
                                     part(p).partClass == PartClass::ClampDiode);
               });
    }

    /// With power on, on the way of the power.
    void volts() {
        if (!mayPower()) return;
        std::vector<NextMove> found;
        for (int rail = 0; rail < static_cast<int>(m.circuit.rails().size()); ++rail) {
            if (m.feed.stageOf(rail) == FeedStage::Unfed) continue;
            const bool read =
                std::any_of(m_readings[static_cast<std::size_t>(rail)].begin(),
                            m_readings[static_cast<std::size_t>(rail)].end(), [&](const auto* r) {
                                return asNow(*r) && r->taken.reading.mode == MeterMode::Volts;
                            });
            if (read) continue;
            const NetIndex net = handyNet(rail);
            const std::string place = handyPlace(m_board, *m_state.netParts, net);
            NextMove move{MoveKind::ReadVolts,
                          place,
                          say("Read the volts of {net} at {place} with the power on",
                              {{"net", m_board.nets[net].name}, {"place", place}}),
                          say("which rails come up, and which is the first that is missing"),
                          say("a live board: one hand, a steady probe; a slip between pads can kill"),
                          1};
            move.mode = MeterMode::Volts;
            Given present, absent;
            for (const View& view : m_prospect.views()) {
                const LevelShares shares = m.levels.next(rail, view.left, m_now);
                present.push_back(shares.present);
                absent.push_back(1 - shares.present);
            }
            move.minutesAfter = m_prospect.add(move.outcomes, say("it is there"), present) +
                                m_prospect.add(move.outcomes, say("it is missing"), absent);
            move.gainBits = m_prospect.gainBits({present, absent});
            found.push_back(std::move(move));
        }
        offer(std::move(found), 4);
    }

    /// What was replaced is tried, where nothing is likely to be shorted.
    void powerAgain() {
        const bool powered = !m_state.sources.empty() && m_state.sources.back().then == m_state.now;
        if (powered || m_state.sources.empty() || !mayPower()) return;
        NextMove move{MoveKind::FirstPower,
                      "",
                      say("Put power on again with a current limit; watch the steps of the current"),
                      say("something was changed since: does it start?"),
                      say("stay below the working voltage"),
                      3};
        weigh(move, given([&](const View& view) {
                  const PlugInShares shares = plugInShares(view.left, m_state, m_now, m.circuit, m.feed);
                  return shares[static_cast<std::size_t>(PlugIn::Starts)];
              }),
              say("the board starts"), say("it does not start"));
        add(std::move(move));
    }

    void lookOver() {
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
            if (showsItself) after += view.odds * shows * misled * minutesToTry(part(view.parts.front()));
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

    /// What can be unplugged goes first; then the link that halves the doubt for the least work.
    void split() {
        if (m.splits.empty()) return;
        const SplitChoice& best = m.splits.front();
        Message links;
        for (const PartIndex link : best.links) {
            const std::string& name = part(link).designator;
            links = links.empty() ? verbatim(name)
                                  : say("{parts} and {part}", {{"parts", links}, {"part", name}});
        }
        NextMove move{MoveKind::Split,
                      part(best.links.front()).designator,
                      say("Lift {parts} and measure both sides", {{"parts", links}}),
                      outcomesOf(m_board, best),
                      say("hot air: shield plastic, mind the neighbours"),
                      best.minutes + 1};
        const auto on = [&](const Stretch& side) {
            return given([&](const View& view) {
                return std::any_of(view.left.begin(), view.left.end(),
                                   [&](const Fault& f) {
                                       return f.conducts() && (side.holds(f.a) || side.holds(f.b));
                                   })
                           ? 1.0
                           : 0.0;
            });
        };
        Given near = on(best.near), far = on(best.far), none;
        for (std::size_t i = 0; i < near.size(); ++i) {
            if (near[i] > 0 && far[i] > 0) near[i] = far[i] = 0.5;
            none.push_back(1 - near[i] - far[i]);
        }
        move.minutesAfter =
            m_prospect.add(move.outcomes, say("short at {place}", {{"place", best.placeNear}}), near) +
            m_prospect.add(move.outcomes, say("short at {place}", {{"place", best.placeFar}}), far) +
            m_prospect.add(move.outcomes, say("short on neither side"), none);
        move.gainBits = m_prospect.gainBits({near, far, none});
        add(std::move(move));
    }

    bool readWithout(const std::string& name) const {
        return std::any_of(m_state.readings.begin(), m_state.readings.end(),
                           [&](const auto& r) { return r.then->off.contains(name); });
    }
    /// The first connector that the input reaches is taken for the power jack; on a board with only one
    /// nobody knows.
    bool bringsPower(PartIndex plug) const {
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
        return connectors > 1 && plug == first;
    }

    void unplug() {
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
                      return !view.parts.empty() && view.parts.size() == 1 && view.parts.front() == plug
                                 ? 1.0
                                 : 0.0;
                  }),
                  say("the short is gone"), say("still there"), plug);
            add(std::move(move));
        }
    }

    /// Only once somebody has begun to read along the copper: the current is held then.
    void readAlong() {
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

    // Heat --------------------------------------------------------------------------------------------------

    bool looked(Side side) const {
        return std::any_of(m_state.heat.begin(), m_state.heat.end(), [&](const auto& heat) {
            const NetIndex net = m_board.findNet(heat.found.net);
            return heat.found.side == side && heat.then->off == m_now.off &&
                   heat.then->generation == m_now.generation &&
                   (net < 0 || m.down.holds(net) || m.circuit.railOf(net) == m_hunted);
        });
    }

    /// Has current through it when this rail is injected into.
    const Fault* warmed(const View& view) const {
        for (const Fault& fault : view.left)
            if (shorts(fault, m_hunted)) return &fault;
        return nullptr;
    }

    void weighHeat(NextMove& move, Side side, double works) const {
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
                after += odds * 2 * minutesToTry(own);
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
                                                ? heatDensity_per_mm2(heat, part(other->part), {}, area) *
                                                      area
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

    Side sideToFace() const {
        double top = 0;
        for (const View& view : m_prospect.views())
            if (const Fault* fault = warmed(view); fault && fault->part >= 0)
                top += part(fault->part).side == Side::Top ? view.odds : -view.odds;
        return top >= 0 ? Side::Top : Side::Bottom;
    }

    void inject() {
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
                3};
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
            NextMove move{
                MoveKind::Inject,
                place,
                say("Raise the voltage by halves and watch the {side} side", {{"side", labelOf(side)}}),
                say("nothing showed on either side at 1 V; a fault of more ohms takes more volts"),
                say("each step is held below the rail's limit; eye protection: a shorted tantalum can "
                    "burst"),
                4};
            move.side = side;
            move.school = School::Climb;
            weighHeat(move, side, 0.5);
            add(std::move(move));
        }
    }

    /// Every look at the heat of this rail ended without any, all of them near one volt.
    bool nothingSeen() const {
        const bool raised = std::any_of(m_state.injections.begin(), m_state.injections.end(),
                                        [](const auto& done) { return done.second.volts > nearOne_v; });
        return !raised && std::all_of(m_state.heat.begin(), m_state.heat.end(), [](const auto& seen) {
            return seen.found.verdict == HeatVerdict::None;
        });
    }

    // Parts -------------------------------------------------------------------------------------------------

    struct Blamed {
        PartIndex part;
        double shorts = 0, other = 0; ///< as a short; as open or dead
        double all() const { return shorts + other; }
    };
    /// Parts on the board that are to blame, most promising per minute first.
    std::vector<Blamed> blamed() const {
        std::map<PartIndex, Blamed> byPart;
        for (const View& view : m_prospect.views())
            for (const PartIndex p : view.parts) {
                Blamed& b = byPart.try_emplace(p, Blamed{p}).first->second;
                const bool shorts = std::any_of(view.left.begin(), view.left.end(),
                                                [p](const Fault& f) { return f.part == p && f.conducts(); });
                (shorts ? b.shorts : b.other) += view.odds;
            }
        std::vector<Blamed> all;
        for (const auto& [p, b] : byPart)
            all.push_back(b);
        std::stable_sort(all.begin(), all.end(), [&](const Blamed& a, const Blamed& b) {
            return a.all() * minutesToTry(part(b.part)) > b.all() * minutesToTry(part(a.part));
        });
        return all;
    }

    void lifts() {
        std::size_t offered = 0;
        constexpr std::size_t most = 4;
        for (const Blamed& b : blamed()) {
            if (offered >= most) break;
            const std::string& name = part(b.part).designator;
            if (b.shorts <= b.other || m_state.lifted.contains(name)) continue;
            // Off and on again twice, and it still is not likely: nothing is learnt by a third time.
            constexpr int often = 2;
            constexpr double likely = 0.3;
            const auto mounted = m_state.mounting.find(name);
            if (mounted != m_state.mounting.end() && mounted->second >= often && b.shorts < likely) continue;
            const int rail = railShortedBy(b.part);
            if (rail < 0) continue;
            const double minutes = minutesToTry(part(b.part));
            const bool end = part(b.part).partClass == PartClass::Processor;
            NextMove move{MoveKind::Lift,
                          name,
                          say("Lift {part} and measure the rail again", {{"part", name}}),
                          say("{odds} that it is the short; lifting takes {minutes}",
                              {{"odds", percent(b.shorts)}, {"minutes", quantityText(minutes, "min")}}),
                          end ? say("a shorted processor is the end for most boards: everything else first")
                              : say("hot air: shield plastic, mind the neighbours"),
                          minutes};
            weigh(move, given([&](const View& view) { return lowShare(rail, view, b.part); }),
                  say("the short stays: {part} is innocent", {{"part", name}}), say("the short goes with it"),
                  b.part);
            move.turn = turnOf(b);
            add(std::move(move));
            ++offered;
        }
    }

    /// What promises little for its minutes comes after the questions, what promises less than it costs
    /// never.
    int turnOf(const Blamed& b) const {
        constexpr double promising_perMinute = 0.03;
        const double perMinute = b.all() / minutesToTry(part(b.part));
        return perMinute > promising_perMinute ? 1 : perMinute * unlistedMinutes > 1 ? 2 : 3;
    }

    /// The rail that the part shorts where it is to blame: the one of the hunt, where it is on that.
    int railShortedBy(PartIndex p) const {
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

    /// Open or dead parts show themselves only when a good one stands in their place.
    void replacements() {
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
                          say("{odds} that it is open or dead: no meter shows that from outside",
                              {{"odds", percent(b.other)}}),
                          say("hot air: shield plastic, mind the neighbours"),
                          minutesToTry(part(b.part)) + power};
            weigh(move, given([&](const View& view) {
                      constexpr double starts = 0.87, never = 0.05;
                      const bool mended =
                          view.listed && std::all_of(view.parts.begin(), view.parts.end(),
                                                     [&](PartIndex p) { return p == b.part; });
                      return mended ? starts : never;
                  }),
                  say("the board starts"), say("no change"), b.part);
            move.turn = turnOf(b);
            add(std::move(move));
            ++offered;
        }
    }

    // Ends --------------------------------------------------------------------------------------------------

    double shortedNow() const { return m.stillShorted; }

    /// What is off goes back: the guilty one new, with its set, the others themselves.
    void refit() {
        constexpr double unlikely = 0.15, guilty = 0.5;
        if (shortedNow() > unlikely) return;
        if (m_state.lifted.empty() && !m_state.unplugged.empty() && m_state.replaced.empty()) {
            const std::string& plug = *m_state.unplugged.begin();
            const PartIndex p = m_board.findPart(plug);
            if (p >= 0 && m.belief.cause[static_cast<std::size_t>(p)] > guilty) {
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
                          minutesToTry(part(other.part)),
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

    /// Fixed is what was proven: rails that were down read again, rails never read accounted for, first power
    /// as it should be.
    void prove() {
        if (!m_state.off().empty() || m_state.replaced.empty()) return;
        constexpr double unlikely = 0.15;
        if (shortedNow() > unlikely) return;
        bool open = false;
        for (int rail = 0; rail < static_cast<int>(m.circuit.rails().size()); ++rail) {
            bool wasDown = false, read = false, readNow = false;
            for (const auto* r : m_readings[static_cast<std::size_t>(rail)]) {
                const auto low = readsLow(r->taken.reading);
                if (!low) continue;
                wasDown = wasDown || *low;
                read = true;
                readNow = readNow || asNow(*r);
            }
            const double risk = m_prospect.oddsOf([&](const View& view) {
                return std::any_of(view.left.begin(), view.left.end(),
                                   [&](const Fault& f) { return shorts(f, rail); });
            });
            constexpr double accepted = 0.004;
            if (wasDown ? readNow : read || risk < accepted || !m_power.contains(rail)) continue;
            const NetIndex net = handyNet(rail);
            NextMove move{MoveKind::ProveRail,
                          handyPlace(m_board, *m_state.netParts, net),
                          say("Measure {rail} before power", {{"rail", m_board.nets[net].name}}),
                          wasDown ? say("it was down: no short before power")
                                  : say("nobody has read it yet: no short before power"),
                          {},
                          0.5,
                          2};
            move.turn = 0;
            move.mode = newestMode(rail);
            open = true;
            add(std::move(move));
        }
        if (open) return;
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

    double repairable() const {
        return m_prospect.oddsOf([](const View& view) { return view.repairable; });
    }

    /// Stop is a move with a worth.
    void stop() {
        if (std::any_of(m_moves.begin(), m_moves.end(), [](const NextMove& move) { return move.turn == 0; }))
            return;
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

    const Standing& m;
    const CaseState& m_state;
    const Board& m_board;
    const PartsOff& m_now;
    mutable std::map<std::pair<const PartsOff*, int>, bool> m_asNow; ///< by how the board stood, and rail
    Prospect m_prospect;
    int m_hunted = -1;            ///< rail
    std::set<int> m_power;        ///< rails that carry power
    std::vector<double> m_ownLow; ///< by rail: that it reads low by itself
    std::vector<std::vector<const CaseState::TakenReading*>> m_readings; ///< by rail, in order
    std::vector<NextMove> m_moves;
};

} // namespace

std::string_view wordOf(CaseEnd end) {
    switch (end) {
    case CaseEnd::Open:
        return "open";
    case CaseEnd::Fixed:
        return "fixed";
    case CaseEnd::NotWorthIt:
        return "not-worth-it";
    case CaseEnd::NotRepairable:
        return "not-repairable";
    case CaseEnd::NoShort:
        return "no-short";
    }
    return "open";
}

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
