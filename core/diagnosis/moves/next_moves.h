#pragma once

#include "base/measurement.h"
#include "base/message.h"
#include "diagnosis/circuit/feed.h"
#include "diagnosis/evidence/along_items.h"
#include "diagnosis/knowledge.h"
#include "diagnosis/moves/prospect.h"
#include "diagnosis/split.h"
#include "diagnosis/together.h"
#include "injection/plan.h"

namespace ustor {

class PowerLevels;

enum class MoveKind {
    NoteComplaint,
    ReadSource,
    MeasureRail,
    MeasureAcross, ///< a link, from pad to pad: is it open?
    ReadVolts,     ///< with the power on
    LookOver,
    Unplug,
    Split,
    ReadAlong,
    Inject,
    TurnOver,
    WatchFlares, ///< on the board's own power, while it tries to start
    Lift,
    MeasureAfterLift,
    MeasurePart, ///< one that is off, by itself
    Replace,
    PutBack, ///< a part that was off and is innocent
    ProveRail,
    FirstPower,
    Close,
    Stop
};

/// How a case ends.
enum class CaseEnd { Open, Fixed, NotWorthIt, NotRepairable, NoShort };
std::string_view wordOf(CaseEnd end);

/// One thing worth doing now.
struct NextMove {
    MoveKind kind = MoveKind::MeasureRail;
    std::string place; ///< part, pad or net it is about; may be empty
    Message sentence;  ///< what to do
    Message reason;    ///< why
    Message risk;      ///< what could go wrong; empty when nothing much
    double minutes = 1;
    double gainBits = 0;     ///< expected fall of the doubt
    double minutesAfter = 0; ///< expected cost to repair, once it is done
    std::vector<MoveOutcome> outcomes = {};
    int turn = 1;                   ///< 0: before all that is weighed by its minutes
    Side side = Side::Top;          ///< of an injection: the one to face the camera
    School school = School::Ladder; ///< of an injection
    MeterMode mode = MeterMode::Ohms;
    std::string against = {};    ///< of a reading from pad to pad
    CaseEnd end = CaseEnd::Open; ///< of the moves that end the case
    double worth() const { return gainBits / minutes; }
    double total() const { return minutes + minutesAfter; }
};

/// The other side is worth the minutes where the last picture shows no clear point or several alike, or no
/// suspect stands out, or the one that does sits on the side that was turned away. False before the first
/// picture.
bool worthTurning(const CaseState& state, const std::vector<Suspect>& suspects);

/// What the next moves follow from.
struct Standing {
    const CaseState& state;
    const BoardCircuit& circuit;
    const Feed& feed;
    const PowerLevels& levels;
    const Belief& belief;
    const Stretch& down; ///< the stretch under suspicion; no nets: none known yet
    double stillShorted; ///< how sure it is that something shorts a rail now
    const std::vector<Suspect>& suspects;
    const std::vector<SplitChoice>& splits;
    const std::vector<UnplugChoice>& unplug;
    const std::vector<Together>& together;
    const std::optional<AlongTheCopper>& along;
    const Tools& tools;
    const Fee& fee;
    const WorkPace& pace;
    double worked_min = 0; ///< by the trail's own clock, breaks left out
};

/// What to do next: what has to come first, then by what is expected to end the job soonest, each move one
/// step ahead and then part after part. When no move is worth its minutes, or going on is not, the first says
/// stop, and why. Empty only where the case is closed.
std::vector<NextMove> nextMoves(const Standing& standing);

} // namespace ustor
