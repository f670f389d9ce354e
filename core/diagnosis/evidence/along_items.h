#pragma once

#include "diagnosis/evidence/item.h"
#include "diagnosis/fact/case_state.h"
#include "rail/millivolts.h"

namespace ustor {

/// What millivolts along the copper of a stretch said, at the fact named beside it.
struct AlongTheCopper {
    MillivoltFinding finding;
    long fact = 0;
};

/// The locator's odds start from all its candidates alike: times their number they are a likelihood. A fault
/// elsewhere than on the stretch fits as the average does.
EvidenceItem alongEvidence(const AlongTheCopper& along);

} // namespace ustor
