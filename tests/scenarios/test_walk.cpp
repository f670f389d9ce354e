#include "bench/scpi_supply.h"
#include "rail/handy_place.h"
#include "scenarios/test_scenarios.h"
#include "session/injection_run.h"
#include "session/injection_work.h"
#include "session/practice/auto_walk.h"
#include "session/practice/demo_case.h"
#include "session/practice/standin_process.h"
#include "support/boards.h"
#include "support/wait.h"

#include <QProcess>
#include <QTemporaryDir>
#include <QTest>
#include <QTimer>
#include <algorithm>
#include <cmath>
#include <functional>
#include <map>

using namespace ustor;
using testing::waitUntil;

namespace {

struct Practice {
    QTemporaryDir folder;
    StandInProcess standIn;
    Hands hands;
    std::unique_ptr<BenchLink> bench;
    std::unique_ptr<CaseSession> session;

    bool start(const QString& board, const QStringList& more) {
        const QString stem = qEnvironmentVariable("USTOR_DEMO_BOARDS") + "/" + board;
        if (!standIn
                 .start(programBeside("ustor-standin"),
                        QStringList{stem + ".356", stem + ".centroid.csv"} + more)
                 .ok())
            return false;
        if (!hands.open(standIn.address().control).ok()) return false;
        auto made = CaseFolder::create(folder.filePath("case").toStdString(), "practice",
                                       testing::demoBoard(board.toStdString()));
        if (!made.ok()) return false;
        session = std::make_unique<CaseSession>(std::move(made.value()), Knowledge{});
        bench = std::make_unique<BenchLink>(programBeside("ustor-guard"));
        bench->open(standIn.address());
        return true;
    }
};

} // namespace

void TestWalk::findsTheHiddenPart_data() {
    QTest::addColumn<QString>("board");
    QTest::addColumn<QString>("part");
    QTest::addColumn<double>("ohms");
    QTest::newRow("a small capacitor nobody thinks of") << "chart-plotter"
                                                        << "C76" << 0.18;
    QTest::newRow("a chip") << "greenhouse-controller"
                            << "U6" << 0.5;
}

// The whole job on sockets: survey, injection, heat, ranking, lifting, proof. Real time times three.
void TestWalk::findsTheHiddenPart() {
    QFETCH(QString, board);
    QFETCH(QString, part);
    QFETCH(double, ohms);
    Practice practice;
    QVERIFY(practice.start(
        board, {"--fault", part, "--ohms", QString::number(ohms), "--speed", "3", "--patience", "6"}));
    WalkSettings settings;
    settings.toTheEnd = true;
    const WalkResult walk = autoWalk(*practice.session, *practice.bench, practice.hands, settings);
    QVERIFY2(walk.finished, walk.trouble.text().c_str());
    QVERIFY2(walk.brokenOff.empty(), joined(walk.brokenOff, "; ").text().c_str());
    QCOMPARE(walk.rank, 1);
    QCOMPARE(QString::fromStdString(walk.culprit), part);
    QCOMPARE(walk.lifted, 1);
    QVERIFY(practice.session->assessment().state.closed.has_value());
    // Ohm's law at the supply's clips: the part, the leads and the copper between.
    const auto& facts = practice.session->facts();
    const auto shows = std::find_if(facts.begin(), facts.end(), [](const Fact& f) {
        return std::holds_alternative<SupplyShows>(f.body);
    });
    QVERIFY(shows != facts.end());
    const auto& shown = std::get<SupplyShows>(shows->body);
    constexpr double between_ohm = 0.25;
    QVERIFY2(shown.volts / shown.amps > ohms && shown.volts / shown.amps < ohms + between_ohm,
             qPrintable(QString("%1 V, %2 A").arg(shown.volts).arg(shown.amps)));
    // The recording can be read again and says the same from the file.
    const auto recording =
        std::filesystem::exists(practice.session->folder().path / "recordings" / "01" / "recording.json");
    QVERIFY(recording);
}

void TestWalk::pulledCableEndsAnInjectionSafely() {
    Practice practice;
    QVERIFY(practice.start("greenhouse-controller", {"--fault", "C10", "--ohms", "0.3"}));
    QVERIFY(waitUntil(
        [&] { return practice.bench->supply().isConnected() && practice.bench->camera().isConnected(); }));
    QVERIFY(practice.hands.leads("L2.2", "J1.2").ok());
    const Board& board = practice.session->board();
    InjectionRun::Settings settings;
    settings.plan = planInjection(board, stretchOf(board, board.findNet("+12V")), {});
    InjectionRun run(*practice.bench, settings);
    std::optional<InjectionOutcome> outcome;
    connect(&run, &InjectionRun::finished, this, [&](const InjectionOutcome& o) { outcome = o; });
    QVERIFY(run.start().ok());
    QVERIFY(waitUntil([&] { return practice.bench->outputOn() || outcome.has_value(); }));
    QVERIFY2(!outcome, sentenceOf(outcome ? outcome->cause : StopCause::None).text().c_str());
    QVERIFY(practice.hands.ask({{"do", "unplug"}, {"what", "camera"}}).ok());
    QVERIFY(waitUntil([&] { return outcome.has_value(); }));
    QCOMPARE(outcome->cause, StopCause::CameraLost);
    QVERIFY(waitUntil(
        [&] {
            return !practice.hands.ask({{"do", "state"}}).value()["output"].toBool();
        },
        1500));
}

namespace {

/// What happens to a running injection, and what the supervisor has to call it.
struct Mishap {
    StopCause cause;
    /// False where it could not be made to happen: then nothing is learnt about the run.
    std::function<bool(Practice&, InjectionRun&, ScpiSupply& knob)> happens;
    School school = School::Ladder;
    bool stopWhenCertain = false;
    int pulses = 12;
};

const std::map<QByteArray, Mishap>& mishaps() {
    static const auto nothing = [](auto&, auto&, auto&) { return true; };
    static const auto control = [](QJsonObject what) {
        return [what = std::move(what)](Practice& practice, InjectionRun&, ScpiSupply&) {
            return practice.hands.ask(what).ok();
        };
    };
    static const auto byKnob = [](auto turn) {
        return [turn](Practice&, InjectionRun&, ScpiSupply& knob) {
            if (!knob.isConnected()) return false;
            turn(knob);
            return true;
        };
    };
    static const std::map<QByteArray, Mishap> all{
        {"nothing, to the end", {StopCause::Finished, nothing, School::Ladder, false, 2}},
        {"it is found", {StopCause::Certain, nothing, School::Ladder, true}},
        {"a person stops it",
         {StopCause::Person,
          [](auto&, auto& run, auto&) {
              run.stop(StopCause::Person);
              return true;
          }}},
        {"the supply's cable is pulled",
         {StopCause::LinkLost, control({{"do", "unplug"}, {"what", "supply"}})}},
        {"the supply falls silent", {StopCause::LinkLost, control({{"do", "deaf"}, {"on", true}})}},
        {"the guard hangs",
         {StopCause::GuardEnded,
          [](auto&, auto&, auto&) {
              return 0 == QProcess::execute("pkill", {"-STOP", "-P",
                                                      QString::number(QCoreApplication::applicationPid()),
                                                      "ustor-guard"});
          }}},
        {"the camera's cable is pulled",
         {StopCause::CameraLost, control({{"do", "unplug"}, {"what", "camera"}})}},
        {"a part becomes hot", {StopCause::TooWarm, nothing, School::FullAtOnce}},
        {"the part lets go", {StopCause::CurrentJumped, control({{"do", "lift"}, {"part", "C10"}})}},
        {"somebody switches it off",
         {StopCause::OutputRefused, byKnob([](ScpiSupply& knob) { knob.switchOff(); })}},
        {"somebody turns the knob up", {StopCause::LimitsChanged, byKnob([](ScpiSupply& knob) {
                                            knob.setLimits(Volts(1.2), Amps(2), Volts(2));
                                        })}}};
    return all;
}

} // namespace

void TestWalk::everyStopCauseEndsWithTheOutputOff_data() {
    QTest::addColumn<QByteArray>("mishap");
    for (const auto& [name, mishap] : mishaps())
        QTest::newRow(name.constData()) << name;
}

// Each cause against the simulated bench behind its sockets: what it is called, and that the output is off.
// "Silence" is the last resort and not among them: whatever falls silent is called by its own name before
// (TestSupervisor has it alone).
void TestWalk::everyStopCauseEndsWithTheOutputOff() {
    QFETCH(QByteArray, mishap);
    const Mishap& made = mishaps().at(mishap);
    Practice practice;
    QVERIFY(practice.start("greenhouse-controller",
                           {"--fault", "C10", "--ohms", "0.5", "--speed", "2", "--patience", "2"}));
    ScpiSupply knob; // a second hand at the same supply
    knob.open(practice.standIn.address().supply);
    QVERIFY(waitUntil([&] {
        return practice.bench->supply().isConnected() && practice.bench->camera().isConnected() &&
               knob.isConnected();
    }));
    QVERIFY(practice.hands.leads("L2.2", "J1.2").ok());
    const Board& board = practice.session->board();
    PlanRequest request;
    request.school = made.school;
    InjectionRun::Settings settings;
    settings.plan = planInjection(board, stretchOf(board, board.findNet("+12V")), request);
    settings.stopWhenCertain = made.stopWhenCertain;
    settings.plan.steps.resize(1);
    settings.plan.steps.front().pulses = made.pulses;
    InjectionRun run(*practice.bench, settings);
    std::optional<InjectionOutcome> outcome;
    connect(&run, &InjectionRun::finished, this, [&](const InjectionOutcome& o) { outcome = o; });
    QVERIFY(run.start().ok());
    QVERIFY(waitUntil([&] { return practice.bench->outputOn(); }));
    // Within the pulse, by the bench's own clock.
    const auto benchTime_s = [&] {
        return practice.hands.ask({{"do", "state"}}).value()["time_s"].toDouble();
    };
    constexpr double settled_s = 0.5;
    const double within_s = benchTime_s() + settled_s;
    QVERIFY(waitUntil([&] { return benchTime_s() > within_s; }));
    if (made.cause != StopCause::TooWarm)
        QVERIFY2(!outcome, sentenceOf(outcome ? outcome->cause : StopCause::None).text().c_str());
    QVERIFY2(made.happens(practice, run, knob), "it could not be made to happen");
    constexpr int longest_ms = 30000;
    QVERIFY(waitUntil([&] { return outcome.has_value(); }, longest_ms));
    QCOMPARE(QByteArray(wordOf(outcome->cause).data()), QByteArray(wordOf(made.cause).data()));
    (void)practice.hands.ask({{"do", "deaf"}, {"on", false}});
    (void)practice.hands.ask({{"do", "plug"}, {"what", "supply"}});
    QVERIFY(waitUntil(
        [&] {
            return !practice.hands.ask({{"do", "state"}}).value()["output"].toBool();
        },
        4000));
}

// Common practice: where nothing becomes warm look at the clips first. A run without a current has not
// looked.
void TestWalk::aClipThatIsOffAcquitsNobody() {
    Practice practice;
    QVERIFY(practice.start("greenhouse-controller",
                           {"--fault", "C10", "--ohms", "0.5", "--speed", "2", "--patience", "2"}));
    QVERIFY(waitUntil(
        [&] { return practice.bench->supply().isConnected() && practice.bench->camera().isConnected(); }));
    const Board& board = practice.session->board(); // no lead is on it
    InjectionRun::Settings settings;
    settings.plan = planInjection(board, stretchOf(board, board.findNet("+12V")), {});
    settings.plan.steps.resize(1);
    settings.plan.steps.front().pulses = 4;
    InjectionRun run(*practice.bench, settings);
    std::optional<InjectionOutcome> outcome;
    connect(&run, &InjectionRun::finished, this, [&](const InjectionOutcome& o) { outcome = o; });
    QVERIFY(run.start().ok());
    constexpr int longest_ms = 60000;
    QVERIFY(waitUntil([&] { return outcome.has_value(); }, longest_ms));
    QCOMPARE(QByteArray(wordOf(outcome->cause).data()), QByteArray(wordOf(StopCause::Finished).data()));
    QVERIFY(outcome->shown && noCurrentFlowed(*outcome));
    const InjectionSpot spot{"L2.2", "J1.2", Side::Top};
    QVERIFY(
        noteInjection(*practice.session, *outcome, spot, practice.session->folder().nextRecording()).ok());
    QCOMPARE(practice.session->facts().size(), std::size_t(1));
    QVERIFY(std::holds_alternative<InjectionDone>(practice.session->facts().front().body));
}

// Common practice: a part that is shorted flares warm at each try of a converter. Somebody else switches the
// power here, and tells nobody: the frames alone say that it came and went, and where.
void TestWalk::whatFlaresIsFoundWithNothingTold() {
    Practice practice;
    QVERIFY(practice.start("greenhouse-controller",
                           {"--fault", "C10", "--ohms", "0.5", "--speed", "2", "--patience", "2"}));
    ScpiSupply source;
    source.open(practice.standIn.address().supply);
    QVERIFY(waitUntil([&] { return practice.bench->camera().isConnected() && source.isConnected(); }));
    QVERIFY(practice.hands.leads("L2.2", "J1.2").ok());
    constexpr double noise_px = 0.5;
    constexpr unsigned seed = 3;
    const auto aligned = clickLandmarks(practice.session->board(), practice.hands, Side::Top, noise_px, seed);
    QVERIFY(aligned.ok() && noteAlignment(*practice.session, aligned.value()).ok());
    const auto watch = [&](bool tries) {
        FlareRun::Settings settings;
        settings.registration = aligned.value();
        settings.recordingFolder = practice.session->folder().nextRecording();
        FlareRun run(*practice.bench, settings);
        std::optional<FlareRun::End> end;
        connect(&run, &FlareRun::finished, this, [&](const FlareRun::End& e) { end = e; });
        source.setLimits(Volts(1), Amps(1), Volts(2));
        QTimer beat;
        bool on = false;
        connect(&beat, &QTimer::timeout, this, [&] { (on = !on) ? source.switchOn() : source.switchOff(); });
        constexpr int half_ms = 500; // a second of the bench's time
        if (tries) beat.start(half_ms);
        const bool started = run.start().ok();
        constexpr int longest_ms = 60000;
        const bool ended = started && waitUntil([&] { return end.has_value(); }, longest_ms);
        beat.stop();
        source.switchOff();
        return ended && noteWatch(*practice.session, *end, Side::Top, settings.recordingFolder).value();
    };
    const auto newest = [&] { return practice.session->assessment().state.heat.back().found; };
    QVERIFY(watch(true));
    const HeatFound found = newest();
    QCOMPARE(found.verdict, HeatVerdict::Point);
    QVERIFY(found.net.empty() && found.injection == 0 && found.alignment > 0 && !found.spots.empty());
    const Part& part = practice.session->board().parts[practice.session->board().findPart("C10")];
    const BoardPoint at = found.spots.front().at;
    const double apart_mm = std::hypot(at.x_mm - part.centre.x_mm, at.y_mm - part.centre.y_mm);
    QVERIFY2(apart_mm < 1.5, qPrintable(QString::number(apart_mm)));
    // With nothing switched nothing is found, and that is said.
    QVERIFY(watch(false));
    QCOMPARE(newest().verdict, HeatVerdict::None);
    QVERIFY(newest().spots.empty());
}
