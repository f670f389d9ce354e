#pragma once

#include "session/case_session.h"
#include "session/metronome_run.h"

namespace ustor {

/// Where the leads go and which side looks at the camera.
struct InjectionSpot {
    std::string plus, minus; ///< places
    Side side = Side::Top;
};

/// Leads for the stretch that is down: plus on a handy place of it, minus on ground.
InjectionSpot injectionSpot(const CaseSession& session, Side side);

/// The plan for the stretch that is down, from the newest reading and this bench's camera.
InjectionPlan planFor(const CaseSession& session, const BenchLink& bench, School school = School::Ladder);

/// All that a run needs; the recording goes into the case.
InjectionRun::Settings settingsFor(const CaseSession& session, const BenchLink& bench, Side side,
                                   std::optional<Registration> registration, School school = School::Ladder);

/// The same for a supply that a person switches: a rung higher each time that nothing was found by hand.
MetronomeRun::Settings byHandSettingsFor(const CaseSession& session, const BenchLink& bench, Side side,
                                         std::optional<Registration> registration, School school);

/// The facts that an ended run leaves: what was injected, and what was found if it saw enough to say so.
std::vector<FactBody> factsOf(const InjectionOutcome& outcome, const InjectionSpot& spot,
                              const std::filesystem::path& recording, const CaseSession& session);

} // namespace ustor
