#include "diagnosis/circuit/rail_load.h"

#include <cmath>

namespace ustor {
namespace {

struct Spread {
    double median_ohms, sigma; ///< of the natural logarithm
};
/// A rail without chips has nothing but capacitors and what leaks in them; or chips that no file lists.
constexpr Spread mainRail{4e3, 1.6}, lowRail{400, 1.6}, unknownRail{2.5e3, 1.9}, coreRail{3, 1.4},
    noConsumers{3e6, 2.3};
constexpr double unlistedChips = 0.4;
/// Working voltages up to that feed memories and logic of low voltage.
constexpr double low_v = 2;

double density(const Spread& spread, double ohms) {
    const double z = std::log(ohms / spread.median_ohms) / spread.sigma;
    return std::exp(-0.5 * z * z) / spread.sigma;
}

} // namespace

std::vector<LoadLevel> loadLevels(const RailSigns& signs) {
    constexpr int perDecade = 3, first = -3, last = 22; // 0.1 ohms to 20 megohms
    const double coreShare = coreShareOf(signs);
    const Spread& usual = !signs.nominal ? unknownRail : signs.nominal->value > low_v ? mainRail : lowRail;
    std::vector<LoadLevel> levels;
    double sum = 0;
    for (int i = first; i <= last; ++i) {
        const double ohms = std::pow(10.0, static_cast<double>(i) / perDecade);
        const double chips = density(usual, ohms);
        const double other = signs.consumers
                                 ? chips
                                 : unlistedChips * chips + (1 - unlistedChips) * density(noConsumers, ohms);
        levels.push_back({ohms, coreShare * density(coreRail, ohms) + (1 - coreShare) * other});
        sum += levels.back().share;
    }
    // Some rails are built as nobody expects: one level a decade stands for them.
    constexpr double odd = 0.01;
    const auto decades = static_cast<double>((levels.size() + perDecade - 1) / perDecade);
    for (std::size_t i = 0; i < levels.size(); ++i)
        levels[i].share = (1 - odd) * levels[i].share / sum + (i % perDecade == 0 ? odd / decades : 0);
    return levels;
}

double coreShareOf(const RailSigns& signs) {
    constexpr double sure = 0.97, high_v = 2.5, never = 0.003, seldom = 0.02;
    if (signs.kind == RailKind::Core) return sure;
    if (signs.nominal) return signs.nominal->value > high_v ? never : seldom;
    constexpr double unknown = 0.08, byChip = 0.4, byPhases = 0.6;
    return signs.phases > 1 ? byPhases : signs.largeChip ? byChip : unknown;
}

double medianOf(const std::vector<LoadLevel>& levels) {
    double sum = 0;
    for (const LoadLevel& level : levels)
        if ((sum += level.share) >= 0.5) return level.ohms;
    return levels.empty() ? 0 : levels.back().ohms;
}

} // namespace ustor
