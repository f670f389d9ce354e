#include "diagnosis/steady_reading.h"

#include <algorithm>
#include <cmath>

namespace ustor {

bool SteadyReading::agrees(const Reading& reading) const {
    if (m_run.empty()) return true;
    if (reading.state != m_run.front().state || reading.mode != m_run.front().mode) return false;
    if (reading.state == ReadingState::OverRange) return true;
    return std::all_of(m_run.begin(), m_run.end(), [&](const Reading& r) {
        const double room = std::max(m_rule.share * std::fabs(r.value), m_rule.digits * reading.resolution);
        return std::fabs(reading.value - r.value) <= room;
    });
}

std::optional<Reading> SteadyReading::add(const Reading& reading, bool openCounts) {
    if (reading.state == ReadingState::OverRange && !openCounts) {
        m_run.clear();
        return std::nullopt;
    }
    if (!agrees(reading)) m_run.clear();
    m_run.push_back(reading);
    if (static_cast<int>(m_run.size()) < m_rule.readings) return std::nullopt;
    std::nth_element(m_run.begin(), m_run.begin() + static_cast<long>(m_run.size() / 2), m_run.end(),
                     [](const Reading& a, const Reading& b) { return a.value < b.value; });
    const Reading kept = m_run[m_run.size() / 2];
    m_run.clear();
    return kept;
}

} // namespace ustor
