#include "diagnosis/odds.h"

#include <algorithm>
#include <cmath>
#include <numeric>

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

double entropyBits(const std::vector<double>& odds) {
    double bits = 0;
    for (const double p : odds)
        if (p > 0) bits -= p * std::log2(p);
    return bits;
}

std::vector<int> cheapestOrder(const std::vector<double>& odds, const std::vector<double>& costs) {
    std::vector<int> order(odds.size());
    std::iota(order.begin(), order.end(), 0);
    // Cross-multiplied, so that a cost of nothing goes first without a division.
    std::stable_sort(order.begin(), order.end(),
                     [&](int a, int b) { return odds[a] * costs[b] > odds[b] * costs[a]; });
    return order;
}

double expectedCost(const std::vector<int>& order, const std::vector<double>& odds,
                    const std::vector<double>& costs) {
    double spent = 0, expected = 0;
    for (const int i : order) {
        spent += costs[i];
        expected += odds[i] * spent;
    }
    return expected;
}

} // namespace ustor
