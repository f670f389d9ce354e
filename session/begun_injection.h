#pragma once

#include "base/message.h"
#include "session/injection_work.h"

namespace ustor {

/// Notes what is about to be injected in a file beside its recording (`recordings/03.begun.json`: one fact),
/// before the output comes on. It goes when the run's facts are in the case; where the program died between,
/// it is what tells of the injection. Error when it cannot be written.
Outcome noteBegun(const InjectionPlan& plan, const InjectionSpot& spot,
                  const std::filesystem::path& recording, bool byHand, const CaseSession& session);
/// The output is off again and what was recorded is still gone over: should the program die now, it was no
/// death in mid-injection.
void noteEnded(const std::filesystem::path& recording, StopCause cause);
void forgetBegun(const std::filesystem::path& recording);

struct RecoveredInjections {
    int injections = 0, cutOff = 0; ///< the latter of the former: the program ended while the output was on
    std::vector<Message> troubles;  ///< files that could not be read; they stay
};
/// Puts the injections into the case that the program's death kept out of it, with what their recordings tell
/// of power and time.
RecoveredInjections recoverBegun(CaseSession& session);

} // namespace ustor
