#include "thermal/telegraph.h"

#include <algorithm>
#include <cmath>

namespace ustor {

double Telegraph::dwell() {
    constexpr double least_s = 0.35, span = 10; // up to 3.5 s
    return least_s * std::pow(span, m_random.uniform());
}

double Telegraph::at(double time_s) {
    constexpr double lag_s = 0.3;
    while (m_time_s < time_s) {
        const double until = std::min(time_s, m_next_s);
        m_lagged += ((m_on ? 1 : 0) - m_lagged) * (1 - std::exp(-(until - m_time_s) / lag_s));
        m_time_s = until;
        if (until == m_next_s) {
            m_on = !m_on;
            m_next_s += dwell();
        }
    }
    return m_lagged;
}

} // namespace ustor
