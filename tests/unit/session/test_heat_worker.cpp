#include "session/certainty.h"
#include "session/heat_stream.h"
#include "session/injection_work.h"
#include "support/boards.h"
#include "support/recordings.h"
#include "support/wait.h"
#include "thermal/power.h"
#include "thermal/recording_reader.h"
#include "unit/session/test_session.h"

#include <QTemporaryDir>
#include <QTest>
#include <algorithm>
#include <csignal>
#include <optional>
#include <sys/resource.h>

using namespace ustor;

namespace {

const Recording& pulses() {
    static const Recording recording = [] {
        testing::RenderSettings settings;
        settings.seconds = 12;
        return testing::render({{{30.4, 20.6}, 0.05}}, settings);
    }();
    return recording;
}

/// Feeds both streams as they would come: by time, the supply some moments behind.
void feed(HeatWorker& worker, const Recording& recording, double supplyLate_s) {
    std::size_t next = 0;
    for (const ThermalFrame& frame : recording.frames) {
        while (next < recording.supply.size() && recording.supply[next].time_s + supplyLate_s <= frame.time_s)
            worker.add(recording.supply[next++]);
        worker.add(frame);
    }
    while (next < recording.supply.size())
        worker.add(recording.supply[next++]);
}

} // namespace

void TestHeatWorker::framesWaitForThePowerOfTheirTime() {
    const Recording& r = pulses();
    HeatWorker worker(r.info, {}, 1.6);
    for (int i = 0; i < 10; ++i)
        QVERIFY(!worker.add(r.frames[static_cast<std::size_t>(i)]).has_value());
    QCOMPARE(worker.soFar().look().frames, 0); // what the supply delivered then is not known yet
    for (const SupplySample& s : r.supply)
        if (s.time_s < r.frames[10].time_s) worker.add(s);
    worker.add(r.frames[10]);
    QVERIFY(worker.soFar().look().frames >= 9);
    worker.finish();
    QCOMPARE(worker.soFar().look().frames, 11);
}

// What is shown live is what the file says afterwards.
void TestHeatWorker::liveAndRecordedSayTheSame() {
    const QTemporaryDir folder;
    const std::filesystem::path path = folder.filePath("r").toStdString();
    HeatWorker worker(pulses().info, {}, 1.6);
    QVERIFY(worker.record(path).ok());
    feed(worker, pulses(), 0.1);
    worker.finish();
    const LiveHeat live = worker.soFar().look();
    QCOMPARE(live.frames, static_cast<int>(pulses().frames.size()));
    QCOMPARE(live.located.verdict, HeatVerdict::Point);
    const auto read = readRecording(path);
    QVERIFY(read.ok());
    const auto after = locateInRecording(read.value(), nullptr);
    QVERIFY(after.ok());
    QCOMPARE(after.value().verdict, HeatVerdict::Point);
    // The clock offset is estimated from the file only: a few hundredths of a pixel may come from it.
    QVERIFY(distance_px(after.value().sources[0].spot.at, live.located.sources[0].spot.at) < 0.1);
    QVERIFY(distance_px(live.located.sources[0].spot.at, {30.4, 20.6}) < 0.3);
}

void TestHeatWorker::aFullDiskDoesNotEndTheSearch() {
    const QTemporaryDir folder;
    HeatWorker worker(pulses().info, {}, 1.6);
    QVERIFY(worker.record(folder.filePath("r").toStdString()).ok());
    rlimit before{};
    getrlimit(RLIMIT_FSIZE, &before);
    rlimit tight = before;
    tight.rlim_cur = 400000; // some sixty frames
    const auto old = std::signal(SIGXFSZ, SIG_IGN);
    setrlimit(RLIMIT_FSIZE, &tight);
    feed(worker, pulses(), 0);
    worker.finish();
    setrlimit(RLIMIT_FSIZE, &before);
    std::signal(SIGXFSZ, old);
    QVERIFY(worker.writeError().has_value());
    QCOMPARE(worker.soFar().look().frames, static_cast<int>(pulses().frames.size()));
    QCOMPARE(worker.soFar().look().located.verdict, HeatVerdict::Point);
}

// A warm hand that comes in from the edge beside the source for some seconds: the map without the frames in
// which it was, while frames go on coming.
void TestHeatWorker::aHandIsLeftOutWhileItGoesOn() {
    testing::RenderSettings settings;
    settings.seconds = 16;
    const PixelPoint at{30.4, 20.6};
    Recording recording = testing::render({{at, 0.03}}, settings);
    constexpr int wide = 26;
    for (ThermalFrame& frame : recording.frames)
        if (frame.time_s > 6 && frame.time_s < 9) frame.centikelvin(cv::Rect(0, 12, wide, 18)) += 500;
    HeatWorker worker(recording.info, {}, 1.6);
    feed(worker, recording, 0.1);
    const LiveHeat live = worker.soFar().look();
    QCOMPARE(live.located.verdict, HeatVerdict::Point);
    QVERIFY(distance_px(live.located.sources[0].spot.at, at) < 0.3);
    const auto& done = live.located.repairs;
    QVERIFY(std::any_of(done.begin(), done.end(),
                        [](const RepairNote& note) { return note.repair == Repair::Passing; }));
}

// The same pulses, told only by beats that a hand followed 0.25 s later: while it goes on the usual delay is
// taken, at the end the edges are found from the frames.
void TestHeatWorker::beatsStandForASilentSupply() {
    testing::RenderSettings settings;
    settings.seconds = 20;
    settings.on_s = settings.off_s = 2;
    const PixelPoint at{30.4, 20.6};
    const Recording recording = testing::render({{at, 0.04}}, settings);
    constexpr double late_s = 0.25;
    const QTemporaryDir folder;
    const std::filesystem::path path = folder.filePath("r").toStdString();
    HeatWorker worker(recording.info, {}, 1.6);
    QVERIFY(worker.record(path).ok());
    bool on = false;
    for (const ThermalFrame& frame : recording.frames) {
        const bool wanted = deliveredPower_w(recording.supply, frame.time_s + late_s) > 0;
        if (wanted != on) worker.add(Beat{frame.time_s, wanted});
        on = wanted;
        worker.add(frame);
    }
    QCOMPARE(worker.soFar().look().located.verdict, HeatVerdict::Point);
    worker.finish();
    QCOMPARE(worker.meanWatts(), 0.0);
    for (const LocateResult& located : {worker.soFar().lookWhole().located,
                                        locateInRecording(readRecording(path).value(), nullptr).value()}) {
        QVERIFY(located.switchedFromFrames);
        QCOMPARE(located.verdict, HeatVerdict::Point);
        QVERIFY(distance_px(located.sources[0].spot.at, at) < 0.3);
    }
    QVERIFY(readRecording(path).value().beats.size() >= 6);
}

// What stands out of white noise grows with the square root of the time (Kay, Fundamentals of Statistical
// Signal Processing I, from memory): what is told at half the time comes true, within the scatter of one
// noise draw.
void TestHeatWorker::timeLeftIsTold() {
    testing::RenderSettings settings;
    settings.seconds = 60;
    const Recording recording = testing::render({{{30.4, 20.6}, 0.0035}}, settings);
    HeatWorker worker(recording.info, {}, 1.6);
    std::size_t next = 0;
    double looked_s = 0;
    std::vector<std::pair<double, double>> told; // when, and the time at which it will be certain
    double certain_s = 0;
    for (const ThermalFrame& frame : recording.frames) {
        while (next < recording.supply.size() && recording.supply[next].time_s <= frame.time_s + 0.1)
            worker.add(recording.supply[next++]);
        worker.add(frame);
        if (frame.time_s < looked_s + 1) continue;
        looked_s = frame.time_s;
        const LiveHeat live = worker.soFar().look();
        const auto left_s = secondsToCertain(live);
        if (isCertain(live)) {
            QCOMPARE(left_s.value(), 0.0);
            certain_s = looked_s;
            break;
        }
        if (left_s) told.emplace_back(looked_s, looked_s + *left_s);
    }
    QVERIFY2(certain_s > 12, qPrintable(QString::number(certain_s)));
    const auto half =
        std::find_if(told.begin(), told.end(), [&](const auto& one) { return one.first >= certain_s / 2; });
    QVERIFY(half != told.end());
    const double ratio = half->second / certain_s;
    QVERIFY2(ratio > 0.6 && ratio < 1.7, qPrintable(QString("%1 of %2 s").arg(ratio).arg(certain_s)));
}

void TestHeatWorker::factsOfARun_data() {
    QTest::addColumn<int>("cause");
    QTest::addColumn<double>("seconds");
    QTest::addColumn<bool>("found");
    QTest::addColumn<std::size_t>("facts");
    const auto row = [](const char* name, StopCause cause, double seconds, bool found, std::size_t facts) {
        QTest::newRow(name) << static_cast<int>(cause) << seconds << found << facts;
    };
    row("to its end, nothing seen", StopCause::Finished, 20, false, 2);
    row("certain", StopCause::Certain, 20, true, 2);
    row("certain at once, by a slow camera", StopCause::Certain, 3, true, 2);
    row("too short to say anything", StopCause::Finished, 1, false, 1);
    row("cut short, nothing seen yet", StopCause::CameraLost, 20, false, 1);
    row("cut short after a find", StopCause::Person, 20, true, 2);
}

namespace {

/// Five pixels a millimetre, not turned.
Registration straightDown() {
    std::vector<Landmark> landmarks;
    for (const BoardPoint p : {BoardPoint{0, 0}, {20, 0}, {20, 15}, {0, 15}})
        landmarks.push_back({p, {100 - 5 * p.x_mm, 100 - 5 * p.y_mm}}); // seen from below
    auto made = Registration::fromLandmarks(landmarks, Side::Bottom);
    if (!made) qFatal("%s", made.error().text().c_str());
    return made.value();
}

} // namespace

// Volts and amps of the supply are a second witness of the rail; where no current flowed, or a person's hand
// switched, there is none.
void TestHeatWorker::whatTheSupplyShowedIsNoted() {
    const QTemporaryDir folder;
    CaseSession session(
        std::move(CaseFolder::create(folder.filePath("c").toStdString(), "c", testing::smallBoard()).value()),
        {});
    QVERIFY(session.add(ReadingTaken{"C10.1", "", {MeterMode::Ohms, ReadingState::Value, 0.3, 0}}).ok());
    const InjectionSpot spot = injectionSpot(session, Side::Top);
    InjectionOutcome outcome;
    outcome.cause = StopCause::Finished;
    outcome.heat.seconds = 1; // too short to have looked at heat
    outcome.shown = NewestPulse::Shown{0.3, 0.75};
    QVERIFY(noteInjection(session, outcome, spot, session.folder().nextRecording()).ok());
    QCOMPARE(session.facts().size(), std::size_t(3));
    const auto* shows = std::get_if<SupplyShows>(&session.facts().back().body);
    QVERIFY(shows);
    QCOMPARE(shows->place, spot.plus);
    QCOMPARE(shows->volts, 0.3);
    QCOMPARE(shows->amps, 0.75);
    QVERIFY(session.assessment().state.readings.back().bySupply);

    outcome.shown->amps = 1e-4; // a clip fell off: who looked then has seen nothing
    outcome.heat.seconds = 20;
    QVERIFY(noteInjection(session, outcome, spot, session.folder().nextRecording()).ok());
    outcome.heat.seconds = 1;
    outcome.shown->amps = 0.75;
    outcome.byHand = true;
    QVERIFY(noteInjection(session, outcome, spot, session.folder().nextRecording()).ok());
    QCOMPARE(session.facts().size(), std::size_t(5));

    outcome.byHand = false;
    outcome.cause = StopCause::CurrentJumped;
    QVERIFY(noteInjection(session, outcome, spot, session.folder().nextRecording()).ok());
    QVERIFY(session.assessment().state.droppedAt.has_value());
}

// A run that was cut short has not looked: it must not speak against any part.
void TestHeatWorker::factsOfARun() {
    QFETCH(int, cause);
    QFETCH(double, seconds);
    QFETCH(bool, found);
    QFETCH(std::size_t, facts);
    const QTemporaryDir folder;
    CaseSession session(
        std::move(CaseFolder::create(folder.filePath("c").toStdString(), "c", testing::smallBoard()).value()),
        {});
    QVERIFY(session.add(ReadingTaken{"C10.1", "", {MeterMode::Ohms, ReadingState::Value, 0.3, 0}}).ok());
    const InjectionSpot spot = injectionSpot(session, Side::Bottom);
    QCOMPARE(netOfPlace(session.board(), spot.plus), session.board().findNet("+3V3"));
    QVERIFY(session.board().nets[netOfPlace(session.board(), spot.minus)].ground);
    InjectionOutcome outcome;
    outcome.cause = static_cast<StopCause>(cause);
    outcome.heat.frames = 8; // seconds count, not frames
    outcome.heat.seconds = seconds;
    if (found) {
        outcome.heat.located.verdict = HeatVerdict::Point;
        LocatedSource source;
        source.board = BoardPoint{12, 8};
        source.spot.snr = 30;
        outcome.heat.located.sources.push_back(source);
    }
    const auto aligned = noteAlignment(session, straightDown());
    QVERIFY(aligned.ok());
    const std::size_t before = session.facts().size();
    QVERIFY(noteInjection(session, outcome, spot, session.folder().nextRecording()).ok());
    QCOMPARE(session.facts().size() - before, facts);
    const auto& done = std::get<InjectionDone>(session.facts()[before].body);
    QCOMPARE(done.net, std::string("+3V3"));
    QCOMPARE(done.recording, std::string("recordings/01"));
    if (facts == 2) {
        const auto& heat = std::get<HeatFound>(session.facts()[before + 1].body);
        // It names what it was computed from.
        QCOMPARE(heat.injection, session.facts()[before].id);
        QCOMPARE(heat.alignment, aligned.value());
        QCOMPARE(heat.net, done.net);
        QCOMPARE(heat.recording, done.recording);
        QVERIFY(alignmentOf(session, done.recording).has_value());
        QCOMPARE(heat.side, Side::Bottom);
        QCOMPARE(heat.spots.size(), found ? std::size_t(1) : std::size_t(0));
    }
}

// A camera does not wait: what cannot be looked at is left out, counted and said, and the newest goes on.
void TestHeatWorker::framesWithoutTimeAreLeftOutAndCounted() {
    HeatStream::Settings settings;
    settings.info.width = 640;
    settings.info.height = 512;
    settings.info.frameRate_hz = 60;
    HeatStream stream(settings);
    QVERIFY(stream.start().ok());
    constexpr int sent = 400;
    const cv::Mat picture(512, 640, CV_16UC1, cv::Scalar(29800));
    for (int i = 0; i < sent; ++i) {
        const double time_s = i / 60.0;
        stream.add(SupplySample{time_s, i / 60 % 2 == 1, 1, 0.1, 0.03, 0.1});
        cv::Mat own = picture.clone();
        own.at<std::uint16_t>(i % 512, 3) += 1;        // none is the last one over again
        stream.add(ThermalFrame{time_s, own}, time_s); // all at once: nobody can look that fast
    }
    std::optional<HeatStream::End> end;
    stream.finish([&](const HeatStream::End& e) { end = e; });
    QVERIFY(testing::waitUntil([&] { return end.has_value(); }, 60000));
    QVERIFY(end->heat.skipped > 0);
    QCOMPARE(end->heat.frames + end->heat.skipped, sent);
    const auto& notes = end->heat.located.notes;
    QVERIFY(std::any_of(notes.begin(), notes.end(), [&](const Message& note) {
        return note.text().find(std::to_string(end->heat.skipped) + " pictures were left out") !=
               std::string::npos;
    }));
}
