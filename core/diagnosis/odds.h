#pragma once

#include <vector>

namespace ustor {

/// Probabilities from logarithms of weights, safe against overflow; they sum to one.
std::vector<double> normalised(const std::vector<double>& logWeights);

/// Natural logarithm of a sum whose terms are given by logarithms; safe against overflow. Not empty.
double logSum(const std::vector<double>& logs);

/// Entropy in bits.
double entropyBits(const std::vector<double>& odds);

} // namespace ustor
