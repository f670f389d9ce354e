#pragma once

#include "base/measurement.h"

#include <optional>
#include <vector>

namespace ustor {

/// When a run of readings counts as one that stands still.
struct SteadyRule {
    int readings = 3;    ///< as many in a row
    double share = 0.02; ///< must agree within this share of their middle
    double digits = 2;   ///< or within so many digits of the meter, if that is more
};

/// Takes a reading by itself once it stands still: the last `readings` agree. Probes that are lifted read
/// over range; over range is taken only where it was asked for, since a probe in the air reads the same.
class SteadyReading {
  public:
    explicit SteadyReading(const SteadyRule& rule = {}) : m_rule(rule) {}
    /// The reading to keep, when this one makes it steady: the middle of the run. Then it starts anew.
    std::optional<Reading> add(const Reading& reading, bool openCounts = false);
    void restart() { m_run.clear(); }
    /// How many of the wanted readings agree so far.
    int agreeing() const { return static_cast<int>(m_run.size()); }
    const SteadyRule& rule() const { return m_rule; }

  private:
    bool agrees(const Reading& reading) const;

    SteadyRule m_rule;
    std::vector<Reading> m_run;
};

} // namespace ustor
