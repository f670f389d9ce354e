#pragma once

#include <vector>

namespace ustor {

/// Probabilities from logarithms of weights, safe against overflow; they sum to one.
std::vector<double> normalised(const std::vector<double>& logWeights);

/// Entropy in bits.
double entropyBits(const std::vector<double>& odds);

/// Order in which to look one after another with perfect tests: falling p / c is the cheapest on average
/// (provable by exchanging neighbours). Returns indices.
std::vector<int> cheapestOrder(const std::vector<double>& odds, const std::vector<double>& costs);

/// Expected cost of looking in an order until it is found.
double expectedCost(const std::vector<int>& order, const std::vector<double>& odds,
                    const std::vector<double>& costs);

} // namespace ustor
