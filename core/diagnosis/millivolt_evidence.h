#pragma once

#include "diagnosis/fact/case_state.h"
#include "rail/millivolts.h"

#include <memory>

namespace ustor {

/// The newest series of readings along the copper of a stretch: those with the same current through the same
/// places.
struct MillivoltSeries {
    MillivoltSetup setup;
    std::vector<MillivoltReading> readings;
    long newestFact = 0;
};

/// Nothing when no reading was taken on this stretch, or its places are not on the board.
std::optional<MillivoltSeries> newestSeries(const CaseState& state, const Stretch& stretch);

/// Keeps the solved copper of the rail that was asked about last: readings come one after the other, and the
/// copper stays. Holding one changes no answer, only how soon it comes.
class MillivoltMemory {
  public:
    MillivoltMemory();
    ~MillivoltMemory();
    MillivoltMemory(const MillivoltMemory&) = delete;
    MillivoltMemory& operator=(const MillivoltMemory&) = delete;

    Result<MillivoltFinding> locate(const Board& board, const Stretch& stretch,
                                    const MillivoltSeries& series);

  private:
    struct Kept;
    std::unique_ptr<Kept> m_kept;
};

} // namespace ustor
