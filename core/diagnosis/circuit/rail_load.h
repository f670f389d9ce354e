#pragma once

#include "diagnosis/rail_rules.h"

#include <optional>
#include <vector>

namespace ustor {

/// One resistance that a rail may show by itself, and how likely.
struct LoadLevel {
    double ohms = 0;
    double share = 0;
};

/// What tells the kind of a rail before it is read.
struct RailSigns {
    RailKind kind = RailKind::Main;
    std::optional<Volts> nominal;
    bool largeChip = false; ///< one of its chips is as large as processors are
    int phases = 0;         ///< converters that feed it
    bool feeds = false;     ///< converters take their current from it
    bool inductor = false;  ///< its current may come through one
    bool consumers = false; ///< chips hang on it
    bool gate = false;      ///< steers a switch, and carries no power
};

/// What a rail shows when nothing is wrong with it, before any other board, sibling or reading was looked at:
/// levels three a decade, shares that sum to one. Log-normal, a mixture where the kind of rail is not sure: a
/// main rail reads hundreds of ohms and up, one of a low working voltage less, a core rail a few ohms or less
/// (common practice; the spreads are judgement).
std::vector<LoadLevel> loadLevels(const RailSigns& signs);

/// How likely a rail is one of a core: nearly sure by its working voltage, or by a processor on it; without a
/// known voltage any rail may be one, and a large chip or several phases make it likely (judgement).
double coreShareOf(const RailSigns& signs);

/// The level that halves the shares.
double medianOf(const std::vector<LoadLevel>& levels);

} // namespace ustor
