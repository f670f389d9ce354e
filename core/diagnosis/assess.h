#pragma once

#include "base/message.h"
#include "diagnosis/belief/belief.h"
#include "diagnosis/fact/case_fold.h"
#include "diagnosis/hypothesis/board_model.h"
#include "diagnosis/knowledge.h"
#include "diagnosis/learnt.h"
#include "diagnosis/millivolt_evidence.h"
#include "diagnosis/moves/next_moves.h"
#include "diagnosis/together.h"

#include <memory>
#include <set>

namespace ustor {

class PowerLevels;

struct RailJudgement {
    NetIndex net = -1;
    RailRuling ruling;
    long fact = 0;
    std::string reading; ///< as shown
    double shorted = 0;  ///< how sure it is that a fault shorted it as it was read
    Message explainedBy; ///< the likeliest that did; empty where none is likely
};

struct SetAside {
    long fact = 0;
    Message why;
};

/// Everything that is shown, computed from board, facts and knowledge alone.
struct Assessment {
    CaseState state;
    std::vector<RailJudgement> rails;    ///< nets with readings, newest reading each
    Stretch down;                        ///< the stretch the hunt is about; no nets when none is known
    std::vector<Stretch> cleared;        ///< pieces of the rail that lifted links have freed
    std::vector<SetAside> setAside;      ///< what counts for nothing or wants a look, and what to do
    LinkState links;                     ///< lifted links, switches that conduct
    std::vector<SplitChoice> splits;     ///< ways to part the stretch, best first
    std::vector<UnplugChoice> unplug;    ///< what can be unplugged from it
    std::optional<AlongTheCopper> along; ///< millivolts along the copper, where they were read
    Message alongTrouble;                ///< why they could not be used
    RailRuling downRuling;
    Belief belief;           ///< what may be wrong with the board, and how sure that is
    double stillShorted = 0; ///< how sure it is that something shorts a rail as the board stands now
    double minutesLeft = 0;  ///< expected cost to repair, trying part after part as things stand
    std::vector<Suspect> suspects;
    std::vector<NextMove> next;
    std::vector<Together> together; ///< with the culprit, once one is nearly certain
    std::string culprit;            ///< proven: lifted, and the short went with it
    Learnt learnt;                  ///< since the newest part came off
    double worked_min = 0;          ///< by the trail's own clock, breaks left out
    std::optional<double> hourBits; ///< by which the doubt fell in the last 60 to 80 minutes of work
};

/// All facts at once.
Assessment assess(const Board& board, const std::vector<Fact>& facts, const Knowledge& knowledge);

/// The assessment of one case, kept while facts come: each is folded into it, and only what it touches is
/// judged and solved anew. The board must outlive it.
class Assessor {
  public:
    Assessor(const Board& board, Knowledge knowledge);
    Assessor(const Assessor&) = delete;
    Assessor& operator=(const Assessor&) = delete;

    /// All facts of the case; those that came since the last call count.
    void take(const std::vector<Fact>& facts);
    /// What other cases tell about such boards, and of the pace of the shop, has changed.
    void setKnown(KnownGoodSet known, const WorkPace& pace);
    const Assessment& assessment() const { return m_assessment; }
    const Knowledge& knowledge() const { return m_knowledge; }

  private:
    /// Judges the facts before the newest part came off, unless they were judged just now.
    void lookBack(const std::vector<Fact>& facts);
    /// Judges the facts of more than an hour of work ago, where there are some.
    void lookBackAnHour(const std::vector<Fact>& facts);
    /// What these facts alone would be believed to mean.
    Belief judged(const std::vector<Fact>& facts) const;
    /// As another case of the same board begins, by that one's model where it serves.
    Assessor(const Assessor& other, const std::vector<Fact>& facts);
    /// All that follows from the state.
    void conclude();
    /// What is believed, and on what.
    void believe();
    void weighAll(const std::vector<EvidenceItem>& items);

    const Board& m_board;
    Knowledge m_knowledge;
    Assessment m_assessment; ///< stays where it is: circuit and evidence look at its board
    CaseFold m_fold;
    MillivoltMemory m_memory;
    std::shared_ptr<BoardModel> m_model;
    std::unique_ptr<ReadingEvidence> m_readings;
    std::shared_ptr<const PowerLevels> m_levels;
    std::optional<BeforeLift> m_before; ///< as the newest part came off
    /// As it was believed more than an hour of work ago.
    struct HourAgo {
        std::size_t count = 0;   ///< of the facts noted until then
        std::set<long> struck;   ///< then or since
        std::vector<Fact> facts; ///< of these, those that count
        double doubt_bits = 0;
    };
    std::optional<HourAgo> m_hourAgo;
    double m_worked_min = 0;
    std::size_t m_taken = 0;
    long m_kinds = -1;        ///< of the board that the model is good for
    long m_goodReadings = -1; ///< of good boards, that the readings were last weighed by
};

} // namespace ustor
