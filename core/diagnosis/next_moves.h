#pragma once

#include "diagnosis/suspects.h"

namespace ustor {

enum class MoveKind {
    NoteComplaint,
    ReadSource,
    MeasureRail,
    ChooseRail,
    LookOver,
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
    std::string place;    ///< part, pad or net it is about; may be empty
    std::string sentence; ///< what to do
    std::string reason;   ///< why
    std::string risk;     ///< what could go wrong; empty when nothing much
    double minutes = 1;
    double gainBits = 0;   ///< expected fall of the doubt
    Side side = Side::Top; ///< of an injection: the one to face the camera
    double worth() const { return gainBits / minutes; }
};

/// The other side is worth the minutes where the last picture shows no clear point or several alike, or no
/// suspect stands out, or the one that does sits on the side that was turned away. False before the first
/// picture.
bool worthTurning(const CaseState& state, const std::vector<Suspect>& suspects);

/// What to do next, most worth per minute first. `down` is the stretch under suspicion (no nets: none known
/// yet).
std::vector<NextMove> nextMoves(const CaseState& state, const Stretch& down,
                                const std::vector<Suspect>& suspects);

} // namespace ustor
