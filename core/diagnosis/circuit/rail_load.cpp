#include "diagnosis/circuit/rail_load.h"

#include <cmath>

namespace ustor {
namespace {

struct Spread {
    double median_ohms, sigma; ///< of the natural logarithm
};
/// A rail without chips has nothing but capacitors and what leaks in them; or chips that no file lists.
constexpr Spread mainRail{6e3, 1.9}, coreRail{4, 1.4}, noConsumers{1e6, 2.0};
constexpr double unlistedChips = 0.4;

double density(const Spread& spread, double ohms) {
    const double z = std::log(ohms / spread.median_ohms) / spread.sigma;
    return std::exp(-0.5 * z * z) / spread.sigma;
}

} // namespace

std::vector<LoadLevel> loadLevels(double coreShare, bool consumers) {
    constexpr int perDecade = 3, first = -3, last = 22; // 0.1 ohms to 20 megohms
    std::vector<LoadLevel> levels;
    double sum = 0;
    for (int i = first; i <= last; ++i) {
        const double ohms = std::pow(10.0, static_cast<double>(i) / perDecade);
        const double chips = density(mainRail, ohms);
        const double other =
            consumers ? chips : unlistedChips * chips + (1 - unlistedChips) * density(noConsumers, ohms);
        levels.push_back({ohms, coreShare * density(coreRail, ohms) + (1 - coreShare) * other});
        sum += levels.back().share;
    }
    for (LoadLevel& level : levels)
        level.share /= sum;
    return levels;
}

double coreShareOf(RailKind kind, bool voltageKnown) {
    constexpr double sure = 0.97, unknown = 0.1;
    if (kind == RailKind::Core) return sure;
    return voltageKnown ? 1 - sure : unknown;
}

double medianOf(const std::vector<LoadLevel>& levels) {
    double sum = 0;
    for (const LoadLevel& level : levels)
        if ((sum += level.share) >= 0.5) return level.ohms;
    return levels.empty() ? 0 : levels.back().ohms;
}

} // namespace ustor
