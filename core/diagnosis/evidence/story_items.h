#pragma once

#include "diagnosis/evidence/item.h"
#include "diagnosis/fact/case_state.h"

#include <vector>

namespace ustor {

/// What a complaint in a person's own words speaks of: liquid, heat, a fall, other shops' work, charging, a
/// wrong source. A word that is denied ("no liquid") does not count.
std::vector<Past> pastIn(const std::string& complaint);

/// What happened to the board, noted or told in the complaint: how often such a fault has such a story, by
/// kind of fault and class of part (table, common practice).
std::vector<EvidenceItem> storyEvidence(const CaseState& state);

/// A source that negotiates: what it gave against what it was asked for, and the plug both ways round.
std::vector<EvidenceItem> negotiationEvidence(const CaseState& state);

/// It fails again: something is wrong with the board as it stood then.
std::vector<EvidenceItem> cameBackEvidence(const CaseState& state);

} // namespace ustor
