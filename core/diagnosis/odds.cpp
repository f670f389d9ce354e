#include "diagnosis/odds.h"

#include <algorithm>
#include <cmath>

namespace ustor {

std::vector<double> normalised(const std::vector<double>& logWeights) {
    if (logWeights.empty()) return {};
    const double most = *std::max_element(logWeights.begin(), logWeights.end());
    std::vector<double> odds;
    double sum = 0;
    for (const double w : logWeights) {
        odds.push_back(std::exp(w - most));
        sum += odds.back();
    }
    for (double& p : odds)
        p /= sum;
    return odds;
}

double logSum(const std::vector<double>& logs) {
    const double most = *std::max_element(logs.begin(), logs.end());
    if (!std::isfinite(most)) return most;
    double sum = 0;
    for (const double each : logs)
        sum += std::exp(each - most);
    return most + std::log(sum);
}

double entropyBits(const std::vector<double>& odds) {
    double bits = 0;
    for (const double p : odds)
        if (p > 0) bits -= p * std::log2(p);
    return bits;
}

} // namespace ustor
