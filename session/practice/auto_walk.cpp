#include "session/practice/auto_walk.h"

#include "base/quantity_text.h"
#include "base/random.h"
#include "rail/handy_place.h"
#include "session/deed.h"
#include "session/injection_work.h"
#include "session/landmarks.h"
#include "thermal/recording_reader.h"

#include <QEventLoop>
#include <QTimer>
#include <cmath>

namespace ustor {

Result<Registration> clickLandmarks(const Board& board, Hands& hands, Side side, double noise_px,
                                    std::uint64_t seed) {
    Random random(seed * 7919 + (side == Side::Top ? 0 : 1));
    std::vector<Landmark> landmarks;
    constexpr int wanted = 6;
    for (const PartIndex p : landmarkParts(board, side, wanted)) {
        const BoardPoint at = board.parts[p].centre;
        const auto pixel = hands.pixelOf(at);
        if (!pixel) return pixel.error();
        landmarks.push_back({at,
                             {pixel.value().x_px + noise_px * random.normal(),
                              pixel.value().y_px + noise_px * random.normal()}});
    }
    return Registration::fromLandmarks(landmarks, side);
}

namespace {

class Walk {
  public:
    Walk(CaseSession& session, BenchLink& bench, Hands& hands, const WalkSettings& settings)
        : m_session(session), m_bench(bench), m_hands(hands), m_settings(settings) {}

    WalkResult run() {
        const double start_s = m_bench.benchSeconds();
        if (!waitForBench()) return fail(say("the bench did not connect"));
        if (!survey()) return std::move(m_result);
        if (m_session.assessment().down.nets.empty()) return fail(say("no rail reads as down"));
        if (!injectAndLook(Side::Top)) return std::move(m_result);
        if (worthTurning(m_session.assessment().state, m_session.assessment().suspects) &&
            !injectAndLook(Side::Bottom))
            return std::move(m_result);
        noteRanking();
        if (m_settings.toTheEnd && !proveAndClose()) return std::move(m_result);
        m_result.finished = true;
        m_result.benchSeconds = m_bench.benchSeconds() - start_s;
        return std::move(m_result);
    }

  private:
    WalkResult fail(const Message& why) {
        m_result.trouble = why;
        return std::move(m_result);
    }
    bool failed(const Message& why) {
        m_result.trouble = why;
        return false;
    }

    bool waitForBench() {
        const auto ready = [this] {
            return m_bench.supply().isConnected() && m_bench.meter().isConnected() &&
                   m_bench.camera().isConnected();
        };
        QEventLoop loop;
        QTimer poll, end;
        QObject::connect(&poll, &QTimer::timeout, &loop, [&] {
            if (ready()) loop.quit();
        });
        end.setSingleShot(true);
        QObject::connect(&end, &QTimer::timeout, &loop, &QEventLoop::quit);
        poll.start(10);
        end.start(8000);
        loop.exec();
        return ready();
    }

    /// The meter answers or fails: it keeps the time itself.
    Result<Reading> read(const std::string& place, MeterMode mode) {
        if (const auto held = m_hands.probes(place, groundPlace(m_session.board())); !held)
            return held.error();
        Reading shown;
        std::optional<Error> trouble;
        bool answered = false;
        QEventLoop loop;
        const auto end = [&] {
            answered = true;
            loop.quit();
        };
        QObject::connect(&m_bench.meter(), &Meter::reading, &loop, [&](const Reading& r) {
            shown = r;
            end();
        });
        QObject::connect(&m_bench.meter(), &Meter::failed, &loop, [&](const Message& why) {
            trouble = Error{why, "meter", {}};
            end();
        });
        m_bench.meter().read(mode);
        if (!answered) loop.exec(); // one that is not there says so at once
        if (trouble) return *trouble;
        return shown;
    }

    bool note(const FactBody& body) {
        const auto added = m_session.add(body);
        if (!added) return failed(added.error().message());
        m_hands.follow(body);
        return true;
    }

    bool measure(const std::string& place) {
        const auto reading = read(place, MeterMode::Ohms);
        if (!reading)
            return failed(say("the meter did not read {place}: {why}",
                              {{"place", place}, {"why", reading.error().message()}}));
        return note(ReadingTaken{place, "", reading.value()});
    }

    bool survey() {
        std::set<NetIndex> covered;
        for (const NetIndex net : powerNets(m_session.board())) {
            if (covered.contains(net)) continue;
            const Stretch stretch = stretchOf(m_session.board(), net);
            covered.insert(stretch.nets.begin(), stretch.nets.end());
            if (!measure(handyPlace(m_session.board(), stretch))) return false;
        }
        for (const auto& rail : m_session.assessment().rails)
            m_settings.tell(say("{net}: {reading}, {state}", {{"net", m_session.board().nets[rail.net].name},
                                                              {"reading", rail.reading},
                                                              {"state", labelOf(rail.ruling.state)}}));
        return true;
    }

    /// Injects, and once more where something broke off: a cable, a silence, a stop. Each of these is told.
    bool injectAndLook(Side side) {
        constexpr int tries = 3;
        for (int i = 1; !injectOnce(side); ++i) {
            if (i == tries) return false;
            m_settings.tell(say("broken off, and begun anew: {why}", {{"why", m_result.trouble}}));
            m_result.brokenOff.push_back(std::exchange(m_result.trouble, {}));
            pause();
        }
        return true;
    }

    static void pause() {
        constexpr int breath_ms = 1500;
        QEventLoop loop;
        QTimer::singleShot(breath_ms, &loop, &QEventLoop::quit);
        loop.exec();
    }

    bool injectOnce(Side side) {
        if (!waitForBench()) return failed(say("the bench did not come back"));
        const InjectionSpot spot = injectionSpot(m_session, side);
        if (!m_hands.turn(side) || !m_hands.leads(spot.plus, spot.minus))
            return failed(say("the leads could not be attached"));
        const auto registration =
            clickLandmarks(m_session.board(), m_hands, side, m_settings.clickNoise_px, m_settings.seed);
        if (!registration) return failed(registration.error().message());
        const auto settings = settingsFor(m_session, m_bench, side, registration.value());
        const auto outcome = inject(settings);
        if (!outcome) return false;
        if (const auto aligned = noteAlignment(m_session, registration.value()); !aligned)
            return failed(aligned.error().message());
        if (const auto noted = noteInjection(m_session, *outcome, spot, settings.recordingFolder); !noted)
            return failed(noted.error().message());
        m_result.injectedWatts = outcome->deliveredWatts;
        const std::string verdict(wordOf(outcome->heat.located.verdict));
        m_settings.tell(say("injected {watts} at {plus}, {side} side: {verdict}",
                            {{"watts", quantityText(outcome->deliveredWatts, "W")},
                             {"plus", spot.plus},
                             {"side", labelOf(side)},
                             {"verdict", labelOf(outcome->heat.located.verdict)}}));
        if (outcome->cause != StopCause::Finished && outcome->cause != StopCause::Certain)
            return failed(sentenceOf(outcome->cause));
        if (noCurrentFlowed(*outcome)) return failed(say("no current flowed: a clip is off"));
        m_result.heatVerdict += (m_result.heatVerdict.empty() ? "" : ", ") + verdict;
        hottestPixel(settings.recordingFolder, registration.value(), side);
        return true;
    }

    std::optional<InjectionOutcome> inject(const InjectionRun::Settings& settings) {
        InjectionRun run(m_bench, settings);
        std::optional<InjectionOutcome> outcome;
        QEventLoop loop;
        QObject::connect(&run, &InjectionRun::finished, &loop, [&](const InjectionOutcome& o) {
            outcome = o;
            loop.quit();
        });
        constexpr int longest_ms = 200000;
        QTimer::singleShot(longest_ms, &loop, &QEventLoop::quit);
        if (const auto started = run.start(); !started)
            return static_cast<void>(failed(started.error().message())), std::nullopt;
        loop.exec();
        if (!outcome) failed(say("the injection did not end"));
        return outcome;
    }

    /// The way it is done by eye: the warmest pixel of the last picture with the output on, and the part
    /// nearest to it.
    void hottestPixel(const std::filesystem::path& folder, const Registration& registration, Side side) {
        const auto recording = readRecording(folder);
        if (!recording || !m_result.hottestPixel.empty()) return;
        double lastOn_s = -1;
        for (const auto& s : recording.value().supply)
            if (s.output) lastOn_s = s.time_s;
        const ThermalFrame* last = nullptr;
        for (const auto& f : recording.value().frames)
            if (f.time_s <= lastOn_s) last = &f;
        if (!last) return;
        cv::Point at;
        cv::minMaxLoc(last->centikelvin, nullptr, nullptr, nullptr, &at);
        const BoardPoint place = registration.toBoard({static_cast<double>(at.x), static_cast<double>(at.y)});
        double nearest = 1e9;
        for (const Part& part : m_session.board().parts) {
            if (part.side != side) continue;
            const double dx = std::max(0.0, std::fabs(place.x_mm - part.centre.x_mm) - part.width_mm / 2),
                         dy = std::max(0.0, std::fabs(place.y_mm - part.centre.y_mm) - part.height_mm / 2);
            if (const double d = std::hypot(dx, dy); d < nearest) {
                nearest = d;
                m_result.hottestPixel = part.designator;
            }
        }
    }

    void noteRanking() {
        const auto hidden = m_hands.reveal();
        if (hidden) {
            m_result.hidden = hidden.value()["part"].toString().toStdString();
            m_result.hiddenOhms = hidden.value()["ohms"].toDouble();
        }
        const Assessment& a = m_session.assessment();
        int rank = 0;
        for (const Suspect& s : a.suspects) {
            const std::string name = s.part < 0 ? "something else" : a.state.board.parts[s.part].designator;
            ++rank;
            if (name == m_result.hidden) {
                m_result.rank = rank;
                m_result.odds = s.odds;
            }
            constexpr std::size_t shown = 5;
            if (m_result.first.size() < shown) m_result.first.emplace_back(name, s.odds);
        }
    }

    bool proveAndClose() {
        constexpr int mostLifts = 6;
        const std::string place = handyPlace(m_session.board(), m_session.assessment().down);
        while (m_session.assessment().culprit.empty()) {
            const auto next = m_session.assessment().next;
            const auto move = std::find_if(next.begin(), next.end(),
                                           [](const NextMove& m) { return m.kind == MoveKind::Lift; });
            if (move == next.end() || m_result.lifted >= mostLifts)
                return failed(say("nothing left to lift"));
            m_settings.tell(
                say("lift {place}: {reason}", {{"place", move->place}, {"reason", move->reason}}));
            for (const FactBody& fact : deedFor(*move, m_session.assessment()).facts)
                if (!note(fact)) return false;
            ++m_result.lifted;
            // The pad of the lifted part is still there to be probed.
            if (!measure(place)) return false;
        }
        m_result.culprit = m_session.assessment().culprit;
        m_settings.tell(say("the short went with {culprit}", {{"culprit", m_result.culprit}}));
        const auto lifted = m_session.assessment().state.lifted;
        for (const std::string& part : lifted)
            if (!note(Refitted{part, part == m_result.culprit, ""})) return false;
        return measure(place) && note(Closed{true, m_result.culprit, ""});
    }

    CaseSession& m_session;
    BenchLink& m_bench;
    Hands& m_hands;
    const WalkSettings& m_settings;
    WalkResult m_result;
};

} // namespace

WalkResult autoWalk(CaseSession& session, BenchLink& bench, Hands& hands, const WalkSettings& settings) {
    QObject listener;
    QObject::connect(&bench, &BenchLink::trouble, &listener,
                     [&settings](const Message& what) { settings.tell(what); });
    return Walk(session, bench, hands, settings).run();
}

} // namespace ustor
