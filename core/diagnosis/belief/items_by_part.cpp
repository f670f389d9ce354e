#include "diagnosis/belief/items_by_part.h"

#include <algorithm>
#include <numeric>

namespace ustor {

ItemsByPart::ItemsByPart(const std::vector<EvidenceItem>& items) : m_items(items) {
    for (int i = 0; i < static_cast<int>(items.size()); ++i) {
        const EvidenceItem& item = items[static_cast<std::size_t>(i)];
        m_others.push_back(item.part >= 0 ? item.logLikelihood({}) : 0);
        m_others_sum += m_others.back();
        if (item.part >= 0)
            m_ofPart[item.part].push_back(i);
        else
            m_ofAll.push_back(i);
    }
    m_most = m_others;
    for (const int i : m_ofAll)
        m_most[static_cast<std::size_t>(i)] = -1e300;
}

std::vector<int> ItemsByPart::about(std::span<const Fault> faults) const {
    std::vector<int> items;
    for (std::size_t i = 0; i < faults.size(); ++i) {
        const auto known = m_ofPart.find(faults[i].part);
        const bool again = std::any_of(faults.begin(), faults.begin() + static_cast<std::ptrdiff_t>(i),
                                       [&](const Fault& before) { return before.part == faults[i].part; });
        if (known != m_ofPart.end() && !again)
            items.insert(items.end(), known->second.begin(), known->second.end());
    }
    return items;
}

double ItemsByPart::sumOf(std::span<const Fault> faults) {
    double log = m_others_sum;
    const auto add = [&](int item, double others) {
        const double its = logOf(item, faults);
        double& most = m_most[static_cast<std::size_t>(item)];
        most = std::max(most, its);
        log += its - others;
    };
    for (const int item : m_ofAll)
        add(item, 0);
    for (const int item : about(faults))
        add(item, ofOthers(item));
    return log;
}

double ItemsByPart::most() const {
    return std::accumulate(m_most.begin(), m_most.end(), 0.0);
}

} // namespace ustor
