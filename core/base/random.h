#pragma once

#include <cstdint>

namespace ustor {

/// Seeded randomness, the same on every machine (xoshiro256** by Blackman and Vigna, seeded by splitmix64).
class Random {
  public:
    explicit Random(std::uint64_t seed);
    std::uint64_t bits();
    double uniform(); ///< in [0, 1)
    double uniform(double low, double high);
    double normal();      ///< mean 0, deviation 1 (Box and Muller)
    int below(int count); ///< 0 .. count - 1

  private:
    std::uint64_t m_state[4];
    double m_spare = 0;
    bool m_hasSpare = false;
};

} // namespace ustor
