#pragma once

#include "base/message.h"
#include "diagnosis/hypothesis/fault.h"

#include <functional>
#include <span>

namespace ustor {

/// One thing that was noted, and how likely it is under any hypothesis: natural logarithm of a likelihood, up
/// to a constant that all hypotheses share.
struct EvidenceItem {
    long fact = 0; ///< 0 for what is known without a fact
    Message what;
    std::function<double(std::span<const Fault>)> logLikelihood;
    /// Of a fact about a single part: it says the same of all hypotheses without a fault of this part. -1: of
    /// any.
    PartIndex part = -1;
};

} // namespace ustor
