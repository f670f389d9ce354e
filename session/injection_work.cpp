#include "session/injection_work.h"

#include "injection/plan.h"
#include "rail/handy_place.h"
#include "thermal/recording_reader.h"

#include <fstream>
#include <iterator>

namespace ustor {

namespace {

/// Less is a clip that fell off rather than a rail that conducts nothing.
constexpr double flows_a = 5e-3;

std::string relativeTo(const CaseSession& session, const std::filesystem::path& recording) {
    return std::filesystem::relative(recording, session.folder().path).generic_string();
}

/// Those that lie on the board; their powers where the supply told what it gave.
std::vector<HeatSpot> spotsOf(const LocateResult& located, bool powerKnown) {
    std::vector<HeatSpot> spots;
    for (const auto& s : located.sources)
        if (s.board)
            spots.push_back({*s.board, s.sigma_mm, s.spot.snr, powerKnown ? s.power_mw : 0, s.delay_s});
    return spots;
}

} // namespace

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

InjectionDone injectionOf(const InjectionOutcome& outcome, const InjectionSpot& spot,
                          const std::filesystem::path& recording, const CaseSession& session) {
    const std::string folder = relativeTo(session, recording);
    const NetIndex net = netOfPlace(session.board(), spot.plus);
    return {net >= 0 ? session.board().nets[net].name : spot.plus,
            spot.plus,
            spot.minus,
            outcome.volts,
            outcome.amps,
            outcome.deliveredWatts,
            outcome.seconds,
            folder,
            outcome.cause,
            outcome.byHand};
}

std::optional<SupplyShows> shownDuring(const InjectionDone& done,
                                       const std::optional<NewestPulse::Shown>& shown) {
    if (done.byHand || !shown || shown->amps < flows_a) return std::nullopt;
    return SupplyShows{done.plus, shown->volts, shown->amps,
                       done.cause == StopCause::CurrentJumped ? CurrentCourse::Drops : CurrentCourse::Steady};
}

bool noCurrentFlowed(const InjectionOutcome& outcome) {
    return !outcome.byHand && outcome.shown && outcome.shown->amps < flows_a;
}

std::optional<HeatFound> findingOf(const InjectionOutcome& outcome, const InjectionDone& done, long injection,
                                   long alignment, Side side) {
    // A run cut short that saw nothing has not looked: it says nothing about any part. Seconds count, not
    // frames: a slow camera that is certain is as good as a fast one.
    constexpr double enough_s = 4;
    const bool certain = outcome.cause == StopCause::Certain;
    const bool whole = certain || outcome.cause == StopCause::Finished;
    const auto& located = outcome.heat.located;
    if (noCurrentFlowed(outcome)) return std::nullopt;
    if ((outcome.heat.seconds < enough_s && !certain) || (!whole && located.sources.empty()))
        return std::nullopt;
    HeatFound heat{located.verdict, side, {}, done.recording};
    heat.net = done.net;
    heat.injection = injection;
    heat.alignment = alignment;
    heat.spots = spotsOf(located, !outcome.byHand);
    return heat;
}

Result<bool> noteWatch(CaseSession& session, const FlareRun::End& end, Side side,
                       const std::filesystem::path& recording) {
    constexpr double enough_s = 8; // some tries of a converter
    const auto& located = end.heat.located;
    if (located.sources.empty() && (end.cause != StopCause::Finished || end.heat.seconds < enough_s))
        return false;
    HeatFound heat{located.verdict, side, {}, relativeTo(session, recording)};
    heat.alignment = newestAlignment(session, side);
    heat.spots = spotsOf(located, false);
    if (const auto added = session.add(heat); !added) return added.error();
    return true;
}

Outcome noteInjection(CaseSession& session, const InjectionOutcome& outcome, const InjectionSpot& spot,
                      const std::filesystem::path& recording) {
    const InjectionDone done = injectionOf(outcome, spot, recording, session);
    // All at once, so that what comes next is laid out once: the first one's number is the next.
    const long injection = session.nextNumber();
    std::vector<FactBody> facts{done};
    if (const auto shown = shownDuring(done, outcome.shown)) facts.emplace_back(*shown);
    if (auto heat = findingOf(outcome, done, injection, newestAlignment(session, spot.side), spot.side))
        facts.emplace_back(std::move(*heat));
    return session.add(facts);
}

Result<long> noteAlignment(CaseSession& session, const Registration& registration) {
    const auto added = session.add(
        Aligned{registration.side(), registration.residual_mm(), registrationToJson(registration)});
    if (!added) return added.error();
    return added.value().id;
}

long newestAlignment(const CaseSession& session, Side side) {
    long newest = 0;
    for (const auto& [id, aligned] : session.assessment().state.alignments)
        if (aligned.side == side) newest = id;
    return newest;
}

std::optional<Registration> alignmentOf(const CaseSession& session, const std::string& recording) {
    const CaseState& state = session.assessment().state;
    for (const auto& [id, heat, then] : state.heat) {
        const auto aligned = state.alignments.find(heat.alignment);
        if (heat.recording != recording || aligned == state.alignments.end()) continue;
        if (auto read =
                registrationFromJson(aligned->second.registration, "fact " + std::to_string(heat.alignment)))
            return std::move(read.value());
    }
    // Cases of a time when alignments were files: one a side, of whatever was aligned last.
    const auto info = readRecordingInfo(session.folder().path / recording);
    const std::string side(wordOf(info ? info.value().side : Side::Top));
    std::ifstream file(session.folder().path / ("registration-" + side + ".json"));
    const std::string json{std::istreambuf_iterator<char>(file), {}};
    if (auto read = registrationFromJson(json, "registration-" + side + ".json"); file && read)
        return std::move(read.value());
    return std::nullopt;
}

} // namespace ustor
