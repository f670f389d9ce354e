#pragma once

#include <array>

namespace ustor {

/// The delivered power followed by a bank of first-order lags, h_k(t) = exp(-t / tau_k) / tau_k: any linear
/// diffusion answers as a sum of such.
class LagBank {
  public:
    static constexpr int lags = 5;
    static constexpr std::array<double, lags> lag_s{0.08, 0.3, 1.2, 5.0, 20.0};

    /// Goes on to a time; power between the last time and this one is taken as linear. Times must not fall.
    void goTo(double time_s, double watts);
    double operator[](int k) const { return m_lagged[k]; }
    double lastWatts() const { return m_watts; }

  private:
    bool m_any = false;
    double m_time_s = 0, m_watts = 0;
    std::array<double, lags> m_lagged{};
};

} // namespace ustor
