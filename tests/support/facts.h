#pragma once

#include "diagnosis/fact/fact.h"

#include <vector>

namespace ustor::testing {

/// The facts of a case, numbered from 1, one minute apart.
std::vector<Fact> factsOf(const std::vector<FactBody>& bodies);

/// A meter in resistance, its black lead on ground, `ohm` read at the place ("C10.1").
ReadingTaken ohms(const char* place, double ohm);
/// The same in the diode setting.
ReadingTaken diode(const char* place, double volt);
/// With the power on.
ReadingTaken volts(const char* place, double volt);

} // namespace ustor::testing
