#include "session/clock_match.h"

#include <algorithm>

namespace ustor {

double ClockMatch::toHost(double stamp_s, double arrival_s) {
    const double offset = arrival_s - stamp_s;
    if (m_count == 0)
        m_offset_s = offset;
    else if (m_count < settleCount)
        m_offset_s = std::min(m_offset_s, offset);
    ++m_count;
    return stamp_s + m_offset_s;
}

} // namespace ustor
