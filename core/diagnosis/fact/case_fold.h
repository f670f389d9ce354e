#pragma once

#include "diagnosis/reading_judge.h"

#include <memory>
#include <set>

namespace ustor {

/// Folds the facts of a case into its state as they come: what a new one costs depends on what it changes,
/// not on how many came before. Only what reaches back (a strike, a corrected class or voltage) goes over all
/// of them again. Board and state must outlive it.
class CaseFold {
  public:
    CaseFold(CaseState& into, const Board& board, const KnownGoodSet& knownGood);

    /// All facts of the case: those that came since the last call count. A list that does not go on where the
    /// last one ended is folded anew.
    void take(const std::vector<Fact>& facts);
    /// What good boards read has changed: every reading is judged anew.
    void judgeAnew();

  private:
    struct Step;
    void begin();
    void fold(const Fact& fact);
    std::shared_ptr<const PartsOff> stands();

    CaseState& m_state;
    const Board& m_board;
    const KnownGoodSet& m_knownGood;
    std::optional<ReadingJudge> m_judge;
    std::size_t m_taken = 0;
    long m_lastId = 0;
    bool m_kindsChanged = false;      ///< by a class or a voltage, since the readings were judged
    std::optional<double> m_hotAir_s; ///< when a part was last lifted or refitted
    std::shared_ptr<const PartsOff> m_then;
    struct ByContent {
        using Stand = std::shared_ptr<const PartsOff>;
        bool operator()(const Stand& a, const Stand& b) const { return *a < *b; }
    };
    std::set<std::shared_ptr<const PartsOff>, ByContent> m_stands; ///< each once
};

} // namespace ustor
