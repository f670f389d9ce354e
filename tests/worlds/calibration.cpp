#include "worlds/calibration.h"

#include <algorithm>
#include <cmath>

namespace ustor::testing {

void Calibration::add(double odds, bool so) {
    m_all.push_back({odds, so});
}

void Calibration::add(const Calibration& other) {
    m_all.insert(m_all.end(), other.m_all.begin(), other.m_all.end());
}

std::array<Calibration::Bin, Calibration::bins> Calibration::table() const {
    std::array<Bin, bins> all;
    for (const One& each : m_all) {
        const auto i = std::min(bins - 1, static_cast<std::size_t>(std::max(0.0, each.odds) * bins));
        ++all[i].count;
        all[i].stated += each.odds;
        all[i].happened += each.so;
    }
    for (Bin& bin : all)
        if (bin.count > 0) {
            bin.stated /= static_cast<double>(bin.count);
            bin.happened /= static_cast<double>(bin.count);
        }
    return all;
}

double Calibration::error() const {
    double error = 0;
    for (const Bin& bin : table())
        error += static_cast<double>(bin.count) * std::fabs(bin.stated - bin.happened);
    return m_all.empty() ? 0 : error / static_cast<double>(m_all.size());
}

Calibration::Brier Calibration::brier() const {
    Brier brier;
    if (m_all.empty()) return brier;
    const auto n = static_cast<double>(m_all.size());
    double mean = 0;
    for (const One& each : m_all) {
        brier.score += (each.odds - each.so) * (each.odds - each.so) / n;
        mean += each.so / n;
    }
    for (const Bin& bin : table()) {
        const double share = static_cast<double>(bin.count) / n;
        brier.reliability += share * (bin.stated - bin.happened) * (bin.stated - bin.happened);
        brier.resolution += share * (bin.happened - mean) * (bin.happened - mean);
    }
    brier.uncertainty = mean * (1 - mean);
    return brier;
}

} // namespace ustor::testing
