#pragma once

#include "base/message.h"
#include "diagnosis/case_state.h"
#include "diagnosis/knowledge.h"
#include "diagnosis/rail_rules.h"
#include "rail/millivolts.h"

namespace ustor {

/// One piece of evidence for or against a suspect. Weight: natural logarithm of its likelihood against the
/// average of all suspects; the weights of a suspect add up to its standing.
struct Evidence {
    Message what;
    double weight = 0;
    long fact = 0; ///< 0 for what is known without a fact
};

struct Suspect {
    PartIndex part =
        -1; ///< -1: something that is not a part of the list (laminate, solder, an unlisted part)
    double odds = 0;
    bool cleared = false; ///< lifted, and the short stayed
    std::vector<Evidence> evidence;
};

/// The suspects of a stretch with their odds (highest first; cleared ones last), assuming that one of them is
/// the short. `along`: what millivolts along the copper said, at the fact named beside it.
struct AlongTheCopper {
    MillivoltFinding finding;
    long fact = 0;
};
std::vector<Suspect> rankSuspects(const CaseState& state, const Stretch& stretch,
                                  const std::optional<AlongTheCopper>& along = std::nullopt);

/// The newest judged state of the stretch as it stands now, from readings on any of its nets; Unknown without
/// one. `sinceLift` tells whether the newest reading was taken with just the parts off that are off now.
struct StretchReading {
    RailRuling ruling;
    bool sinceLift = false;
    long fact = 0;
    std::optional<double> ohms;
};
StretchReading newestReading(const CaseState& state, const Stretch& stretch);

} // namespace ustor
