#pragma once

#include "session/case_session.h"
#include "session/flare_run.h"
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

/// The fact that an ended run leaves: what was injected.
InjectionDone injectionOf(const InjectionOutcome& outcome, const InjectionSpot& spot,
                          const std::filesystem::path& recording, const CaseSession& session);
/// What was found, if the run saw enough to say so; it names what it was computed from. `injection` and
/// `alignment`: numbers of their facts.
std::optional<HeatFound> findingOf(const InjectionOutcome& outcome, const InjectionDone& done, long injection,
                                   long alignment, Side side);
/// The supply was on and gave next to nothing: a clip that is off, or a rail that conducts nothing. What was
/// not warm then is acquitted of nothing.
bool noCurrentFlowed(const InjectionOutcome& outcome);
/// What the supply told meanwhile, a second witness of the rail beside the meter; nothing where no current
/// flowed or a person switched it.
std::optional<SupplyShows> shownDuring(const InjectionDone& done,
                                       const std::optional<NewestPulse::Shown>& shown);
/// Notes all: the injection first, for the finding names it.
Outcome noteInjection(CaseSession& session, const InjectionOutcome& outcome, const InjectionSpot& spot,
                      const std::filesystem::path& recording);

/// Notes what a watch of the board on its own power has seen: a finding of no rail and no injection. False
/// where it was too short to have looked.
Result<bool> noteWatch(CaseSession& session, const FlareRun::End& end, Side side,
                       const std::filesystem::path& recording);

/// Notes where the camera looks; returns the number of the fact.
Result<long> noteAlignment(CaseSession& session, const Registration& registration);
/// The newest alignment of a side among the facts, and the number of its fact; 0 where there is none.
long newestAlignment(const CaseSession& session, Side side);
/// The alignment that a recording of the case was located with; else none.
std::optional<Registration> alignmentOf(const CaseSession& session, const std::string& recording);

} // namespace ustor
