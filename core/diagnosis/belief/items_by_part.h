#pragma once

#include "diagnosis/evidence/item.h"

#include <span>
#include <unordered_map>
#include <vector>

namespace ustor {

/// Facts about single parts move only hypotheses with a fault of theirs; all others are told once.
class ItemsByPart {
  public:
    explicit ItemsByPart(const std::vector<EvidenceItem>& items);

    const std::vector<EvidenceItem>& all() const { return m_items; }
    const std::vector<int>& ofAll() const { return m_ofAll; }
    double ofOthers(int item) const { return m_others[static_cast<std::size_t>(item)]; }
    double logOf(int item, std::span<const Fault> faults) const {
        return m_items[static_cast<std::size_t>(item)].logLikelihood(faults);
    }
    /// Facts about parts of these faults.
    std::vector<int> about(std::span<const Fault> faults) const;
    /// The logarithm of how well the faults foresaw all of them; remembers what `most` asks for.
    double sumOf(std::span<const Fault> faults);
    /// No hypothesis was seen to explain all of them better.
    double most() const;

  private:
    const std::vector<EvidenceItem>& m_items;
    std::vector<double> m_others; ///< by item, for hypotheses without a fault of its part
    std::vector<double> m_most;
    double m_others_sum = 0;
    std::unordered_map<PartIndex, std::vector<int>> m_ofPart;
    std::vector<int> m_ofAll;
};

} // namespace ustor
