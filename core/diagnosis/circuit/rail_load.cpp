#include "diagnosis/circuit/rail_load.h"

#include <cmath>

namespace ustor {
namespace {

struct Spread {
    double median_ohms, sigma; ///< of the natural logarithm
};
/// A rail without chips has nothing but capacitors and what leaks in them; or chips that no file lists.
constexpr Spread mainRail{2.5e3, 1.3}, lowRail{400, 1.5}, unknownRail{2.5e3, 1.9}, coreRail{3, 1.4},
    gate{3e4, 2.2}, noConsumers{3e6, 2.3};
constexpr double unlistedChips = 0.4;
/// Chips that take nothing without power: their rail reads like one with capacitors alone.
constexpr double asleep = 0.15;
/// Drivers that leave their gate open without power: from gate to anything "OL" is as usual as kilohms
/// (common practice).
constexpr double drivesNothing = 0.5, open_ohms = 1e9;
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
    const Spread& usual = signs.gate                     ? gate
                          : !signs.nominal               ? unknownRail
                          : signs.nominal->value > low_v ? mainRail
                                                         : lowRail;
    std::vector<LoadLevel> levels;
    double sum = 0;
    for (int i = first; i <= last; ++i) {
        const double ohms = std::pow(10.0, static_cast<double>(i) / perDecade);
        const double chips = density(usual, ohms);
        const double idle = signs.consumers ? asleep : 1 - unlistedChips;
        const double other = (1 - idle) * chips + idle * density(noConsumers, ohms);
        levels.push_back({ohms, coreShare * density(coreRail, ohms) + (1 - coreShare) * other});
        sum += levels.back().share;
    }
    // Some rails are built as nobody expects: one level a decade stands for them. Seldom where the voltage is
    // known.
    constexpr double oddUnknown = 0.01, oddKnown = 0.003;
    const double odd = signs.nominal ? oddKnown : oddUnknown;
    // Below an ohm nothing but a core reads.
    constexpr double below_ohms = 1, hardlyEver = 0.05;
    const bool notCore = signs.nominal && signs.nominal->value > low_v;
    const std::size_t wholeDecades = (levels.size() + perDecade - 1) / perDecade;
    const auto decades = static_cast<double>(wholeDecades);
    for (std::size_t i = 0; i < levels.size(); ++i) {
        const double its = odd / decades * (notCore && levels[i].ohms < below_ohms ? hardlyEver : 1);
        levels[i].share = (1 - odd) * levels[i].share / sum + (i % perDecade == 0 ? its : 0);
    }
    if (signs.gate) {
        for (LoadLevel& level : levels)
            level.share *= 1 - drivesNothing;
        levels.push_back({open_ohms, drivesNothing});
    }
    return levels;
}

double coreShareOf(const RailSigns& signs) {
    constexpr double sure = 0.97, high_v = 2.5, never = 5e-4, hardlyEver = 4e-3, seldom = 0.02;
    if (signs.gate) return 0;
    // What other rails are made of is the board's main supply, however large the chips on it; and the current
    // of a core comes through an inductor (common practice).
    if (!signs.nominal && (signs.feeds || !signs.inductor)) return hardlyEver;
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
