#include "session/deed.h"

namespace ustor {
namespace {

/// All links of the best split, side by side ones together.
std::vector<FactBody> liftedLinks(const Assessment& assessment) {
    std::vector<FactBody> lifted;
    if (assessment.splits.empty()) return lifted;
    for (const PartIndex link : assessment.splits.front().links)
        lifted.emplace_back(Lifted{assessment.state.board.parts[link].designator});
    return lifted;
}

} // namespace

Deed deedFor(const NextMove& move, const Assessment& assessment) {
    switch (move.kind) {
    case MoveKind::MeasureRail:
    case MoveKind::MeasureAfterLift:
    case MoveKind::ProveRail:
    case MoveKind::MeasureAcross:
    case MoveKind::ReadVolts: {
        Deed deed{{}, Deed::Work::Read, move.place};
        deed.mode = move.mode;
        deed.against = move.against;
        return deed;
    }
    case MoveKind::ReadAlong:
        return {{}, Deed::Work::ReadAlong, move.place};
    case MoveKind::Inject:
    case MoveKind::TurnOver:
        return {{}, Deed::Work::Inject, move.place, move.side, move.school};
    case MoveKind::WatchFlares:
        return {{}, Deed::Work::Watch, {}, move.side};
    case MoveKind::MeasurePart:
        return {{}, Deed::Work::TypePart, move.place};
    case MoveKind::NoteComplaint:
        return {{}, Deed::Work::TypeComplaint};
    case MoveKind::ReadSource:
    case MoveKind::FirstPower:
        return {{}, Deed::Work::TypeSource};
    case MoveKind::LookOver:
        return {{Seen{"", Damage::None, say("looked over both sides").text()}}};
    case MoveKind::Unplug:
        return {{Unplugged{move.place}}};
    case MoveKind::Split:
        return {liftedLinks(assessment)};
    case MoveKind::Lift:
        return {{Lifted{move.place}}};
    case MoveKind::Replace:
        return {{Refitted{move.place, true, ""}}};
    case MoveKind::PutBack:
        if (assessment.state.unplugged.contains(move.place)) return {{Unplugged{move.place, true}}};
        return {{Refitted{move.place, false, ""}}};
    case MoveKind::Close:
        return {{Closed{true, assessment.culprit, ""}}};
    case MoveKind::Stop:
        return {{Closed{false, "", move.reason.text()}}};
    }
    return {};
}

} // namespace ustor
