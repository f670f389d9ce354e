#include "base/quantity_text.h"
#include "diagnosis/fact/words.h"
#include "diagnosis/moves/planner.h"

#include <algorithm>

namespace ustor {

bool Planner::chosenFirst(const Part& part) const {
    switch (part.partClass) {
    case PartClass::CeramicCapacitor:
    case PartClass::PolarCapacitor:
        return m_state.first == HuntSchool::Capacitors;
    case PartClass::Mosfet:
    case PartClass::Regulator:
    case PartClass::Ic:
    case PartClass::Processor:
    case PartClass::Switch:
        return m_state.first == HuntSchool::Chips;
    default:
        return false;
    }
}

bool Planner::isOfChosenSchool(const NextMove& move) const {
    switch (move.kind) {
    case MoveKind::Lift:
    case MoveKind::Replace: {
        const PartIndex p = m_board.findPart(move.place);
        return p >= 0 && chosenFirst(part(p));
    }
    case MoveKind::LookOver:
        return m_state.first == HuntSchool::Eyes;
    case MoveKind::Inject:
    case MoveKind::TurnOver:
        return m_state.first == HuntSchool::Heat;
    case MoveKind::Split:
    case MoveKind::Unplug:
        return m_state.first == HuntSchool::Split;
    default:
        return false;
    }
}

void Planner::putSchoolFirst() {
    if (m_state.first == HuntSchool::Cheapest) return;
    const auto weighed =
        std::find_if(m_moves.begin(), m_moves.end(), [](const NextMove& m) { return m.turn > 0; });
    // Who wants a part off that is not worth its minutes may, where it can be the short at all.
    const auto promises = [](const NextMove& move) {
        constexpr int never = 3;
        constexpr double least = 0.01;
        return move.turn < never || (move.kind == MoveKind::Lift && move.outcomes.back().odds >= least);
    };
    const auto chosen = std::find_if(weighed, m_moves.end(), [&](const NextMove& move) {
        return isOfChosenSchool(move) && promises(move);
    });
    if (weighed == m_moves.end() || chosen == weighed) return;
    const Message school = labelOf(m_state.first);
    if (chosen == m_moves.end()) {
        weighed->reason = say("{reason}; you wanted first: {school}; there nothing promising is left",
                              {{"reason", weighed->reason}, {"school", school}});
        return;
    }
    const double dearer = std::max(0.0, chosen->total() - weighed->total());
    chosen->reason =
        say("{reason}; you wanted first: {school}; that costs about {minutes} more than to begin with: "
            "{best}",
            {{"reason", chosen->reason},
             {"school", school},
             {"minutes", quantityText(dearer, "min")},
             {"best", weighed->sentence}});
    std::rotate(weighed, chosen, chosen + 1);
}

} // namespace ustor
