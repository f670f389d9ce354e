#pragma once

#include "base/message.h"
#include "diagnosis/evidence/along_items.h"
#include "diagnosis/split.h"
#include "injection/plan.h"

namespace ustor {

enum class MoveKind {
    NoteComplaint,
    ReadSource,
    MeasureRail,
    LookOver,
    Unplug,
    Split,
    ReadAlong,
    Inject,
    TurnOver,
    Lift,
    MeasureAfterLift,
    Replace,
    ProveRail,
    Close,
    Stop
};

/// One thing worth doing now.
struct NextMove {
    MoveKind kind = MoveKind::MeasureRail;
    std::string place; ///< part, pad or net it is about; may be empty
    Message sentence;  ///< what to do
    Message reason;    ///< why
    Message risk;      ///< what could go wrong; empty when nothing much
    double minutes = 1;
    double gainBits = 0;            ///< expected fall of the doubt
    Side side = Side::Top;          ///< of an injection: the one to face the camera
    School school = School::Ladder; ///< of an injection
    double worth() const { return gainBits / minutes; }
};

/// The other side is worth the minutes where the last picture shows no clear point or several alike, or no
/// suspect stands out, or the one that does sits on the side that was turned away. False before the first
/// picture.
bool worthTurning(const CaseState& state, const std::vector<Suspect>& suspects);

/// What the next moves follow from.
struct Standing {
    const CaseState& state;
    const Stretch& down; ///< the stretch under suspicion; no nets: none known yet
    double stillShorted; ///< how sure it is that something shorts a rail now
    const std::vector<Suspect>& suspects;
    const std::vector<SplitChoice>& splits;
    const std::vector<UnplugChoice>& unplug;
    const std::optional<AlongTheCopper>& along;
};

/// What to do next, most worth per minute first.
std::vector<NextMove> nextMoves(const Standing& standing);

} // namespace ustor
