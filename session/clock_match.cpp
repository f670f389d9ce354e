#include "session/clock_match.h"

#include <algorithm>
#include <cmath>

namespace ustor {

double ClockMatch::toHost(double stamp_s, double arrival_s) {
    const double offset_s = arrival_s - stamp_s;
    // A stamp of the past is a device that was started anew.
    if (m_count == 0 || stamp_s < m_lastStamp_s) {
        restart(offset_s);
        m_blockStart_s = arrival_s;
    } else if (m_count < settleCount) {
        m_offset_s = std::min(m_offset_s, offset_s);
    }
    follow(offset_s, arrival_s);
    const bool first = m_count++ == 0 && m_last_s == 0;
    m_lastStamp_s = stamp_s;
    constexpr double least_s = 1e-6;
    m_last_s = first ? stamp_s + m_offset_s : std::max(stamp_s + m_offset_s, m_last_s + least_s);
    return m_last_s;
}

void ClockMatch::restart(double offset_s) {
    m_count = 0;
    m_offset_s = m_blockLeast_s = offset_s;
    m_least_s.clear();
}

void ClockMatch::follow(double offset_s, double arrival_s) {
    m_blockLeast_s = std::min(m_blockLeast_s, offset_s);
    constexpr double block_s = 1, step_s = 0.1;
    // Nothing arrives before it was sent: far too early is a clock that was set.
    if (offset_s < m_offset_s - step_s * m_speed) {
        m_least_s.clear();
        m_offset_s = offset_s;
    }
    if (arrival_s - m_blockStart_s < block_s * m_speed) return;
    m_least_s.push_back(m_blockLeast_s);
    m_blockStart_s = arrival_s;
    m_blockLeast_s = offset_s;
    constexpr std::size_t blocks = 10;
    if (m_least_s.size() > blocks) m_least_s.pop_front();
    if (m_least_s.back() > m_offset_s + step_s * m_speed) {
        // Not one message of a whole second came in time: the device's clock stood still meanwhile.
        m_offset_s = m_least_s.back();
        m_least_s.clear();
        return;
    }
    // A crystal is off by far less than a thousandth; more than that would be noise.
    constexpr double most_slew = 1e-3;
    const double least_s = *std::min_element(m_least_s.begin(), m_least_s.end());
    m_offset_s +=
        std::clamp(least_s - m_offset_s, -most_slew * block_s * m_speed, most_slew * block_s * m_speed);
}

} // namespace ustor
