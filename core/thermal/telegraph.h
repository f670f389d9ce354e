#pragma once

#include "base/random.h"

namespace ustor {

/// Pulses that never were: a random telegraph, on and off for some tenths to some seconds each, followed with
/// the lag of a small part. The same for the same seed.
class Telegraph {
  public:
    explicit Telegraph(std::uint64_t seed) : m_random(seed) { m_next_s = dwell(); }
    /// Its value at a time since its start; times must rise.
    double at(double time_s);

  private:
    double dwell();

    Random m_random;
    double m_time_s = 0, m_next_s = 0, m_lagged = 0;
    bool m_on = false;
};

} // namespace ustor
