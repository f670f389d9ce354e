#include "diagnosis/work_time.h"

#include <algorithm>

namespace ustor {

WorkTime::WorkTime(const std::vector<Fact>& facts) {
    m_upTo.reserve(facts.size());
    double minutes = 0;
    for (std::size_t i = 0; i < facts.size(); ++i) {
        const double gap = i == 0 ? 0 : (facts[i].time_s - facts[i - 1].time_s) / 60;
        if (gap > 0 && gap <= break_min) minutes += gap;
        m_upTo.push_back(minutes);
    }
}

std::size_t WorkTime::factsAfter(double minutes) const {
    return static_cast<std::size_t>(std::upper_bound(m_upTo.begin(), m_upTo.end(), minutes) - m_upTo.begin());
}

} // namespace ustor
