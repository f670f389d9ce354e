#pragma once

#include "diagnosis/evidence/item.h"
#include "diagnosis/evidence/reading_evidence.h"
#include "diagnosis/hypothesis/candidates.h"
#include "diagnosis/hypothesis/companions.h"

#include <memory>
#include <vector>

namespace ustor {

/// What one fact did to a hypothesis: the natural logarithm of how well it foresaw the fact, against what all
/// of them together did, each as sure as it was until then. With the logarithm of its odds before any fact
/// they add up to that of its odds now.
struct Weight {
    std::shared_ptr<const Message> what;
    long fact = 0; ///< 0 for what is known without a fact
    double weight = 0;
};

/// Some faults at once, and how sure it is that they and no others are what is wrong.
struct Hypothesis {
    std::vector<Fault> causes;
    double prior = 0;
    double odds = 0;
    std::vector<Weight> weights; ///< of the likeliest only; facts that moved it by nothing are left out
};

struct Belief {
    std::vector<Hypothesis> hypotheses; ///< likeliest first
    std::vector<double> cause;          ///< by part: that it is the cause, or one of them
    std::vector<double> victim; ///< by part: that another cause took it with it; counted in `cause` too
    /// Where it is to blame at all, it is so as a victim more often than by itself.
    bool isVictim(PartIndex part) const {
        return victim[static_cast<std::size_t>(part)] > cause[static_cast<std::size_t>(part)] / 2;
    }
    /// Nats by which the best single fault falls short of the best pair in explaining the readings.
    double surprise = 0;
    /// Causes that are off the board and known to have been it; all hypotheses hold them.
    std::vector<Fault> found;
    std::vector<Hypothesis> foundBy; ///< what stood first for each of them, with its evidence
};

/// Shares of boards with so many faults at once (common practice: two in some twenty). What went through one
/// part of a rail goes through others of it: of two, so many lie on one rail (judgement).
struct FaultCounts {
    static constexpr double one = 0.92, two = 0.08, sameRail = 0.5;
};

/// Weighs all single faults, and pairs of those that stand out on their rails.
Belief weigh(const CaseState& state, const std::vector<Candidate>& candidates, ReadingEvidence& readings,
             const std::vector<EvidenceItem>& items, const Companions& companions);

/// The same; and as soon as a cause is off the board and known to have been it, what else may be wrong beside
/// it, again and again.
Belief weighBesideFound(const CaseState& state, const std::vector<Candidate>& candidates,
                        ReadingEvidence& readings, const std::vector<EvidenceItem>& items,
                        const Companions& companions);

} // namespace ustor
