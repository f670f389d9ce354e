#include "thermal/lag_bank.h"

#include <cmath>

namespace ustor {

void LagBank::goTo(double time_s, double watts) {
    if (m_any && time_s > m_time_s) {
        // Exact for power that is linear in between.
        for (int k = 0; k < lags; ++k) {
            const double u = (time_s - m_time_s) / lag_s[k], decay = std::exp(-u);
            const double slopeShare = 1 - (1 - decay) / u;
            m_lagged[k] = m_lagged[k] * decay + m_watts * (1 - decay - slopeShare) + watts * slopeShare;
        }
    }
    m_any = true;
    m_time_s = time_s;
    m_watts = watts;
}

} // namespace ustor
