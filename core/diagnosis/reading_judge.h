#pragma once

#include "diagnosis/fact/case_state.h"
#include "diagnosis/known_good.h"
#include "rail/siblings.h"

#include <map>
#include <optional>
#include <utility>
#include <vector>

namespace ustor {

/// Judges the readings of a case against ground, in this order: what good boards of the model read at that
/// place; what the siblings on this board read; the rules by kind of rail. The ruling says which of them
/// spoke. A reading on a board still warm from hot air that a cold board would show healthier is not judged,
/// and is asked for again. State and set must outlive it; it holds until a class or a voltage changes.
class ReadingJudge {
  public:
    ReadingJudge(CaseState& state, const KnownGoodSet& knownGood);
    /// The readings that came since the last call, and those whose siblings they are.
    void judgeNew();

  private:
    bool counts(const CaseState::TakenReading& taken) const;
    void judge(CaseState::TakenReading& taken);
    RailRuling rule(const CaseState::TakenReading& taken, const Reading& reading);
    std::optional<RailRuling> bySibling(const CaseState::TakenReading& taken, const Reading& reading);
    RailKind kindOf(NetIndex net);
    const std::vector<NetIndex>& siblingsOf(NetIndex net);

    CaseState& m_state;
    KnownGoodOnBoard m_knownGood;
    Siblings m_siblings;
    std::size_t m_judged = 0; ///< readings so far
    std::map<NetIndex, RailKind> m_kinds;
    std::map<NetIndex, std::vector<NetIndex>> m_siblingsOf;
    std::map<NetIndex, std::vector<std::size_t>> m_onNet;           ///< readings of a net
    std::map<std::pair<NetIndex, MeterMode>, std::size_t> m_newest; ///< with the leads the usual way round
};

/// One reading against what is to be expected there; nothing where the two cannot be compared: a meter too
/// coarse for the expected value, or an open place on the good board. Thresholds: common practice.
std::optional<RailRuling> judgeAgainst(const Reading& reading, const Expected& expected, RulingBy by,
                                       const Message& whose);

} // namespace ustor
