#pragma once

#include "base/supply_sample.h"

#include <optional>

namespace ustor {

/// What a supply showed in the newest pulse that lasted, once it had settled: what a person would read off
/// its display. A pulse that was too short leaves the one before.
class NewestPulse {
  public:
    struct Shown {
        double volts = 0, amps = 0; ///< means, at the supply: leads and copper included
    };
    /// Samples in the order of their time, pauses included.
    void add(const SupplySample& sample);
    /// Nothing before a pulse has settled.
    std::optional<Shown> shown() const { return m_shown; }

  private:
    std::optional<double> m_on_s;
    double m_volts = 0, m_amps = 0; ///< sums
    int m_samples = 0;
    std::optional<Shown> m_shown;
};

} // namespace ustor
