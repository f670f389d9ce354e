#pragma once

#include "diagnosis/case_state.h"
#include "diagnosis/known_good.h"

namespace ustor {

/// Judges every reading of a case against ground, in this order: what good boards of the model read at that
/// place; what the siblings on this board read; the rules by kind of rail. The ruling says which of them
/// spoke. A reading on a board still warm from hot air that a cold board would show healthier is not judged,
/// and is asked for again.
void judgeReadings(CaseState& state, const KnownGoodSet& knownGood);

/// One reading against what is to be expected there; nothing where the two cannot be compared: a meter too
/// coarse for the expected value, or an open place on the good board. Thresholds: common practice.
std::optional<RailRuling> judgeAgainst(const Reading& reading, const Expected& expected, RulingBy by,
                                       const std::string& whose);

} // namespace ustor
