#pragma once

#include "base/measurement.h"
#include "diagnosis/circuit/board_circuit.h"

#include <utility>

namespace ustor {

/// How a reading was taken, as far as its noise is concerned.
struct ReadingDoubt {
    bool warm = false;      ///< soon after hot air: junctions lose some two millivolts a kelvin and leak more
    bool reversed = false;  ///< leads the other way round: what chips do then is hardly known
    bool knownGood = false; ///< of a board that was kept as an example: looked at twice
};

/// Density of the reading where the circuit predicts `predicted`: per unit of the natural logarithm in ohms
/// and beep, per volt in diode test; a probability where it is over range. Contacts and digits, the spread of
/// junctions, the width of the levels that loads and shorts are reckoned in.
double readingDensity(const Reading& reading, const PredictedReading& predicted, const ReadingDoubt& doubt);

/// The same for a reading that has nothing to do with the prediction: a slip to another pad, a lifted probe.
double strayDensity(const Reading& reading);

/// The same for a reading of what another reading is of.
double alikeDensity(const Reading& reading, const Reading& other);

/// The values of other readings outside which that density is as good as nothing, for a reading that has a
/// value.
std::pair<double, double> alikeRange(const Reading& reading);

/// Share of readings that are such slips (common practice: a few in a hundred).
double slipShare(const ReadingDoubt& doubt);

} // namespace ustor
