#pragma once

#include "base/result.h"
#include "diagnosis/fact/arrival.h"

#include <string_view>

namespace ustor {

/// What a course of volts and amps comes to, as a person would sum it up: where it ends, and whether it rose
/// in steps, came in pulses, died, or never moved (common practice). A current that comes and goes twice and
/// more pulses; one that ends below a fifth of what it reached has died; one that rose at a voltage that held
/// and stays above three tenths of an ampere has started.
SourceShows shownBy(const PowerTrace& trace);

/// A course as CSV `seconds,volts,amps`, as supplies log it; a first line of names is skipped. A row that
/// cannot be read is an error that names its line: a course with holes would tell of pulses that were none.
Result<PowerTrace> readPowerTrace(std::string_view text, std::string_view fileName);

} // namespace ustor
