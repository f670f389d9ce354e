#pragma once

#include <array>
#include <cstddef>
#include <vector>

namespace ustor::testing {

/// How far stated odds agree with what happened.
class Calibration {
  public:
    void add(double odds, bool so);
    void add(const Calibration& other);
    std::size_t count() const { return m_all.size(); }

    static constexpr std::size_t bins = 10;
    struct Bin {
        std::size_t count = 0;
        double stated = 0, happened = 0; ///< means
    };
    /// Of equal width.
    std::array<Bin, bins> table() const;
    /// Expected calibration error: mean distance of what was stated in a bin from what happened, by the bin's
    /// share.
    double error() const;
    /// Brier score and its parts (Murphy, A new vector partition of the probability score, Journal of Applied
    /// Meteorology 12, 1973 [memory]): score = reliability - resolution + uncertainty, up to the spread
    /// within the bins.
    struct Brier {
        double score = 0, reliability = 0, resolution = 0, uncertainty = 0;
    };
    Brier brier() const;

  private:
    struct One {
        double odds;
        bool so;
    };
    std::vector<One> m_all;
};

} // namespace ustor::testing
