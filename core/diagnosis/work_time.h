#pragma once

#include "diagnosis/fact/fact.h"

#include <vector>

namespace ustor {

/// Minutes of work by the trail's own clock: the time between one fact and the next, struck out or not. A gap
/// that is longer than any single move is a break and counts nothing; nor does one that runs backwards.
class WorkTime {
  public:
    explicit WorkTime(const std::vector<Fact>& facts);

    double minutes() const { return m_upTo.empty() ? 0 : m_upTo.back(); }
    /// How many facts had been noted when so many minutes were worked.
    std::size_t factsAfter(double minutes) const;

    static constexpr double break_min = 30; ///< common practice: a big chip takes 20

  private:
    std::vector<double> m_upTo; ///< minutes, by fact
};

} // namespace ustor
