#pragma once

#include "diagnosis/next_moves.h"
#include "diagnosis/together.h"

namespace ustor {

struct RailJudgement {
    NetIndex net = -1;
    RailRuling ruling;
    long fact = 0;
    std::string reading; ///< as shown
};

/// Everything that is shown, computed from board, facts and knowledge alone.
struct Assessment {
    CaseState state;
    std::vector<RailJudgement> rails; ///< nets with readings, newest reading each
    Stretch down;                     ///< the stretch the hunt is about; no nets when none is known
    RailRuling downRuling;
    std::vector<Suspect> suspects;
    std::vector<NextMove> next;
    std::vector<Together> together; ///< with the culprit, once one is nearly certain
    std::string culprit;            ///< proven: lifted, and the short went with it
};

Assessment assess(const Board& board, const std::vector<Fact>& facts, const Knowledge& knowledge);

} // namespace ustor
