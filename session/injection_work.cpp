#include "session/injection_work.h"

#include "injection/plan.h"
#include "rail/handy_place.h"

namespace ustor {

InjectionSpot injectionSpot(const CaseSession& session, Side side) {
    return {handyPlace(session.board(), session.assessment().down), groundPlace(session.board()), side};
}

InjectionPlan planFor(const CaseSession& session, const BenchLink& bench, School school) {

    const Assessment& a = session.assessment();
    PlanRequest request;
    request.school = school;
    request.camera = {bench.camera().info().netd_mk, bench.camera().info().frameRate_hz};
    const auto newest = newestReading(a.state, a.down);
    constexpr double probes = 0.05, least = 0.005; // ohms of the meter's own leads, common practice
    if (newest.ohms) request.faultResistance = Ohms(std::max(least, *newest.ohms - probes));
    return planInjection(a.state.board, a.down, request);
}

InjectionRun::Settings settingsFor(const CaseSession& session, const BenchLink& bench, Side side,
                                   std::optional<Registration> registration, School school) {
    InjectionRun::Settings settings;
    settings.plan = planFor(session, bench, school);
    settings.recordingFolder = session.folder().nextRecording();
    settings.side = side;
    settings.registration = std::move(registration);
    settings.boardThickness_mm = session.board().thickness_mm;
    return settings;
}

MetronomeRun::Settings byHandSettingsFor(const CaseSession& session, const BenchLink& bench, Side side,
                                         std::optional<Registration> registration, School school) {
    MetronomeRun::Settings settings;
    settings.injection = settingsFor(session, bench, side, std::move(registration), school);
    for (const auto& [id, done] : session.assessment().state.injections)
        settings.rung += done.byHand;
    return settings;
}

std::vector<FactBody> factsOf(const InjectionOutcome& outcome, const InjectionSpot& spot,
                              const std::filesystem::path& recording, const CaseSession& session) {
    const std::string folder = std::filesystem::relative(recording, session.folder().path).generic_string();
    const NetIndex net = netOfPlace(session.board(), spot.plus);
    std::vector<FactBody> facts;
    facts.emplace_back(InjectionDone{net >= 0 ? session.board().nets[net].name : spot.plus, spot.plus,
                                     spot.minus, outcome.volts, outcome.amps, outcome.deliveredWatts,
                                     outcome.seconds, folder, outcome.cause, outcome.byHand});
    // A run cut short that saw nothing has not looked: it says nothing about any part.
    constexpr int enoughFrames = 100;
    const bool whole = outcome.cause == StopCause::Finished || outcome.cause == StopCause::Certain;
    const auto& located = outcome.heat.located;
    if (outcome.heat.frames < enoughFrames || (!whole && located.sources.empty())) return facts;
    HeatFound heat{located.verdict, spot.side, {}, folder};
    for (const auto& s : located.sources)
        if (s.board) {
            const double power_mw = outcome.byHand ? 0 : s.power_mw;
            heat.spots.push_back({*s.board, s.sigma_mm, s.spot.snr, power_mw, s.delay_s});
        }
    facts.emplace_back(heat);
    return facts;
}

} // namespace ustor
