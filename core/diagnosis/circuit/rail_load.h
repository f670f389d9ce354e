#pragma once

#include "diagnosis/rail_rules.h"

#include <vector>

namespace ustor {

/// One resistance that a rail may show by itself, and how likely.
struct LoadLevel {
    double ohms = 0;
    double share = 0;
};

/// What a rail shows when nothing is wrong with it, before any other board, sibling or reading was looked at:
/// levels three a decade, shares that sum to one. Log-normal, a mixture where the kind of rail is not sure: a
/// main rail reads hundreds of ohms and up, a core rail a few ohms or less (common practice; the spreads are
/// judgement).
std::vector<LoadLevel> loadLevels(double coreShare, bool consumers);

/// How likely a rail is one of a core: nearly sure by its working voltage, or by a processor on it; without a
/// known voltage any rail may be one (judgement).
double coreShareOf(RailKind kind, bool voltageKnown);

/// The level that halves the shares.
double medianOf(const std::vector<LoadLevel>& levels);

} // namespace ustor
