#pragma once

#include "diagnosis/fact/case_state.h"
#include "thermal/surface_strokes.h"

#include <optional>
#include <vector>

namespace ustor {

/// What was painted over one kind of picture of a case, in order.
std::vector<SurfaceStroke> strokesOver(Painted::Over over, const CaseState& state);
/// The fact of the newest stroke there; 0 where there is none.
long newestStroke(Painted::Over over, const CaseState& state);
/// A stroke as a fact.
Painted paintedOver(Painted::Over over, const SurfaceStroke& stroke);

} // namespace ustor
