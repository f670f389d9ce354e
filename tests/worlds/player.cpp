#include "worlds/player.h"

#include "diagnosis/hypothesis/words.h"
#include "diagnosis/work_time.h"
#include "rail/handy_place.h"
#include "session/deed.h"

#include <algorithm>
#include <cmath>

namespace ustor::testing {
namespace {

class Player {
  public:
    Player(OtherBench& bench, const PlaySettings& settings)
        : m_bench(bench), m_settings(settings), m_assessor(bench.board(), settings.knowledge) {
        m_result.story = bench.story();
        m_result.repairable = bench.repairable();
        m_causes = bench.faults();
    }

    PlayResult run() {
        note(Complaint{"dead"});
        while (!m_result.ended && m_result.steps < m_settings.mostSteps) {
            ++m_result.steps;
            const auto& next = m_assessor.assessment().next;
            if (next.empty()) break;
            const NextMove move = next.front();
            m_result.minutes += move.minutes;
            if (m_settings.tell)
                for (std::size_t i = 1; i < std::min<std::size_t>(4, next.size()); ++i)
                    m_settings.tell("   or " + next[i].sentence.text() + " " +
                                    std::to_string(next[i].total()));
            if (m_settings.tell)
                m_settings.tell("[" + std::to_string(m_facts.size()) + "] " + move.sentence.text() + " (" +
                                move.reason.text() + ") " + std::to_string(move.total()) + " of " +
                                std::to_string(m_assessor.assessment().minutesLeft));
            carryOut(move);
            m_time_s += 60 * (move.minutes + WorkTime::break_min); // until the board is cool: no work
        }
        m_result.mended = m_bench.mended();
        return m_result;
    }

  private:
    void note(const FactBody& body) {
        m_facts.push_back({static_cast<long>(m_facts.size()) + 1, m_time_s, body});
        if (m_settings.tell) m_settings.tell("      " + sentenceOf(body).text());
        m_assessor.take(m_facts);
        if (!m_settings.tell) return;
        int shown = 0;
        std::string top = "      ->";
        for (const Hypothesis& h : m_assessor.assessment().belief.hypotheses) {
            if (++shown > 3) break;
            top += " " + std::to_string(std::lround(100 * h.odds)) + "% " +
                   sentenceOf(m_bench.board(), h.causes).text() + ";";
        }
        m_settings.tell(top);
    }
    void lastStated(StatedOdds::When when) {
        if (!m_settings.stated) return;
        const auto& cause = m_assessor.assessment().belief.cause;
        PartIndex best = -1;
        for (PartIndex p = 0; p < static_cast<PartIndex>(cause.size()); ++p)
            if (best < 0 || cause[static_cast<std::size_t>(p)] > cause[static_cast<std::size_t>(best)])
                best = p;
        if (best >= 0) m_settings.stated({cause[static_cast<std::size_t>(best)], wasGuilty(best), when});
    }
    bool wasGuilty(PartIndex part) const {
        for (const WorldFault& fault : m_causes)
            if (fault.part == part) return true;
        return false;
    }

    void carryOut(const NextMove& move) {
        const Board& board = m_bench.board();
        if (move.kind == MoveKind::LookOver) {
            note(Seen{"", Damage::None, ""});
            for (const Seen& seen : m_bench.seen())
                note(seen);
            return;
        }
        if (move.kind == MoveKind::Lift) {
            const PartIndex part = board.findPart(move.place);
            if (!m_result.firstLiftGuilty) {
                lastStated(StatedOdds::When::FirstLift);
                m_result.firstLiftGuilty = m_bench.guilty(part);
            }
            ++m_result.lifts;
            m_result.needless += !m_bench.guilty(part);
        } else if (move.kind == MoveKind::Inject)
            lastStated(StatedOdds::When::Middle);
        else if (move.kind == MoveKind::Close || move.kind == MoveKind::Stop)
            lastStated(StatedOdds::When::End);
        const Deed deed = deedFor(move, m_assessor.assessment());
        for (const FactBody& fact : deed.facts)
            happens(fact, move);
        work(deed);
    }

    void happens(const FactBody& fact, const NextMove& move) {
        const Board& board = m_bench.board();
        if (const auto* lifted = std::get_if<Lifted>(&fact)) m_bench.lift(board.findPart(lifted->part));
        if (const auto* back = std::get_if<Refitted>(&fact)) {
            if (back->replaced && move.kind == MoveKind::Replace &&
                !m_bench.guilty(board.findPart(back->part)) &&
                !m_assessor.assessment().state.lifted.contains(back->part) && !isTogether(back->part))
                ++m_result.needless;
            m_bench.refit(board.findPart(back->part), back->replaced);
        }
        if (const auto* closed = std::get_if<Closed>(&fact)) {
            m_result.ended = true;
            m_result.closedFixed = closed->fixed;
            m_result.end = wordOf(move.end);
        }
        note(fact);
    }
    bool isTogether(const std::string& part) const {
        for (const Together& t : m_assessor.assessment().together)
            if (m_bench.board().parts[t.part].designator == part) return true;
        return false;
    }

    void work(const Deed& deed) {
        const Board& board = m_bench.board();
        switch (deed.work) {
        case Deed::Work::None:
            return;
        case Deed::Work::TypeComplaint:
            return note(Complaint{"dead"});
        case Deed::Work::TypeSource:
            return note(m_bench.plugIn());
        case Deed::Work::Read: {
            const NetIndex net = netOfPlace(board, deed.place);
            const NetIndex against = deed.against.empty() ? -1 : netOfPlace(board, deed.against);
            const Reading reading =
                deed.mode == MeterMode::Volts ? m_bench.volts(net) : m_bench.measure(net, against, deed.mode);
            return note(ReadingTaken{deed.place, deed.against, reading});
        }
        case Deed::Work::Inject: {
            const std::string place =
                deed.place.empty() ? handyPlace(board, m_assessor.assessment().down) : deed.place;
            const NetIndex net = netOfPlace(board, place);
            const double volts = deed.school == School::Climb ? 2.5 : 1;
            constexpr double amps = 2;
            ++m_result.injections;
            note(InjectionDone{board.nets[net].name, place, "GND", volts, amps, 0, 0, "", StopCause::None});
            return note(m_bench.look(net, deed.side, volts, amps));
        }
        case Deed::Work::Watch:
            return note(m_bench.watch(deed.side));
        case Deed::Work::TypePart:
            return note(m_bench.measurePart(board.findPart(deed.place)));
        case Deed::Work::ReadAlong:
            return;
        }
    }

    OtherBench& m_bench;
    const PlaySettings& m_settings;
    Assessor m_assessor;
    std::vector<Fact> m_facts;
    std::vector<WorldFault> m_causes;
    double m_time_s = 1e6;
    PlayResult m_result;
};

} // namespace

PlayResult play(OtherBench& bench, const PlaySettings& settings) {
    return Player(bench, settings).run();
}

} // namespace ustor::testing
