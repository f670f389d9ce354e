#include "injection/newest_pulse.h"

namespace ustor {

void NewestPulse::add(const SupplySample& sample) {
    constexpr double settles_s = 0.25;
    constexpr int enough = 3;
    if (!sample.output) {
        m_on_s.reset();
        return;
    }
    if (!m_on_s) {
        m_on_s = sample.time_s;
        m_volts = m_amps = m_samples = 0;
    }
    if (sample.time_s - *m_on_s < settles_s) return;
    m_volts += sample.volts;
    m_amps += sample.amps;
    if (++m_samples >= enough) m_shown = Shown{m_volts / m_samples, m_amps / m_samples};
}

} // namespace ustor
