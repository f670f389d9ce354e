#pragma once

#include <vector>

namespace ustor {

/// Probabilities from logarithms of weights, safe against overflow; they sum to one.
std::vector<double> normalised(const std::vector<double>& logWeights);

/// Entropy in bits.
double entropyBits(const std::vector<double>& odds);

} // namespace ustor
