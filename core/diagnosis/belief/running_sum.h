#pragma once

#include "diagnosis/odds.h"

#include <cmath>
#include <vector>

namespace ustor {

/// The logarithm of a sum of exponentials that is kept while some of them change.
class RunningSum {
  public:
    explicit RunningSum(std::vector<double> logs) : m_logs(std::move(logs)) { sumAnew(); }
    const std::vector<double>& logs() const { return m_logs; }
    double log() const { return m_base + std::log(m_sum); }
    void add(std::size_t which, double more) {
        const double before = m_logs[which];
        m_logs[which] += more;
        m_sum += std::exp(m_logs[which] - m_base) - std::exp(before - m_base);
        constexpr double far = 1e6; // beyond that the difference loses its digits
        if (!(m_sum * far > m_whole && m_sum < far * m_whole)) sumAnew();
    }
    void addToAll(const std::vector<double>& more) {
        for (std::size_t i = 0; i < m_logs.size(); ++i)
            m_logs[i] += more[i];
        sumAnew();
    }

  private:
    void sumAnew() {
        m_base = logSum(m_logs);
        m_sum = m_whole = 1;
    }
    std::vector<double> m_logs;
    double m_base = 0, m_sum = 1, m_whole = 1;
};

} // namespace ustor
