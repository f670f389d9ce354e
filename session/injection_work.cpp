#include "session/injection_work.h"

#include "injection/plan.h"
#include "rail/handy_place.h"

namespace ustor {

InjectionSpot injectionSpot(const CaseSession& session, Side side) {
    return {handyPlace(session.board(), session.assessment().down), groundPlace(session.board()), side};
}

InjectionPlan planFor(const CaseSession& session, const BenchLink& bench) {
    const Assessment& a = session.assessment();
    PlanRequest request;
    request.camera = {bench.camera().info().netd_mk, bench.camera().info().frameRate_hz};
    const auto newest = newestReading(a.state, a.down);
    constexpr double probes = 0.05, least = 0.005; // ohms of the meter's own leads, common practice
    if (newest.ohms) request.faultResistance = Ohms(std::max(least, *newest.ohms - probes));
    return planInjection(a.state.board, a.down, request);
}

InjectionRun::Settings settingsFor(const CaseSession& session, const BenchLink& bench, Side side,
                                   std::optional<Registration> registration) {
    InjectionRun::Settings settings;
    settings.plan = planFor(session, bench);
    settings.recordingFolder = session.folder().nextRecording();
    settings.side = side;
    settings.registration = std::move(registration);
    settings.boardThickness_mm = session.board().thickness_mm;
    return settings;
}

std::vector<FactBody> factsOf(const InjectionOutcome& outcome, const InjectionSpot& spot,
                              const std::filesystem::path& recording, const CaseSession& session) {
    const std::string folder = std::filesystem::relative(recording, session.folder().path).generic_string();
    const NetIndex net = netOfPlace(session.board(), spot.plus);
    std::vector<FactBody> facts;
    facts.emplace_back(InjectionDone{net >= 0 ? session.board().nets[net].name : spot.plus, spot.plus,
                                     spot.minus, outcome.volts, outcome.amps, outcome.deliveredWatts,
                                     outcome.seconds, folder, outcome.cause});
    // A run cut short that saw nothing has not looked: it says nothing about any part.
    constexpr int enoughFrames = 100;
    const bool whole = outcome.cause == StopCause::Finished || outcome.cause == StopCause::Certain;
    const auto& located = outcome.heat.located;
    if (outcome.heat.frames < enoughFrames || (!whole && located.sources.empty())) return facts;
    HeatFound heat{located.verdict, spot.side, {}, folder};
    for (const auto& s : located.sources)
        if (s.board) heat.spots.push_back({*s.board, s.sigma_mm, s.spot.snr, s.power_mw, s.delay_s});
    facts.emplace_back(heat);
    return facts;
}

} // namespace ustor
