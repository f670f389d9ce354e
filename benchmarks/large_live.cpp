#include "app/workbench.h"
#include "benchmarks.h"
#include "busy_loops.h"
#include "demo/window_walk.h"
#include "enlarged_camera.h"
#include "processor_time.h"
#include "support/wait.h"
#include "thermal/recording_reader.h"

#include <QElapsedTimer>
#include <QTemporaryDir>
#include <QTimer>
#include <algorithm>
#include <cmath>
#include <cstdio>

namespace ustor {
namespace {

/// Of the frames that came in its time, how many were recorded and looked at.
std::string recordedShare(const std::filesystem::path& folder, double rate_hz) {
    const auto read = readRecordingTimes(folder);
    if (!read) return " " + read.error().text();
    const auto& frames = read.value().frames;
    const double span_s = frames.back().time_s - frames.front().time_s;
    return " recorded " + std::to_string(frames.size()) + " of " +
           std::to_string(static_cast<int>(std::lround(span_s * rate_hz)) + 1) + " frames;";
}

} // namespace

/// The demo is played through the window with a camera of 640 x 512 at 60 Hz: what the whole program takes of
/// a core while the output pulses, everything in it (reading, recording, repair, correlation, looks,
/// drawing).
void benchLargeLive(int busyLoops) {
    const BusyLoops loops(busyLoops);
    const QTemporaryDir folder;
    auto book = Casebook::open(folder.path().toStdString());
    if (!book) return;
    MainWindow window(std::move(book.value()));
    window.resize(1280, 800);
    window.show();
    window.openDemo(1);
    Workbench& bench = window.workbench();
    constexpr int patience_ms = 8000;
    if (!testing::waitUntil([&] { return bench.bench() && bench.bench()->camera().isConnected(); },
                            patience_ms)) {
        std::printf("Large live stream: the bench did not connect\n\n");
        return;
    }
    BenchAddress address = bench.bench()->address();
    EnlargedCamera camera(address.camera.socket);
    camera.start();
    address.camera = InstrumentAddress(SocketAddress{"127.0.0.1", camera.port()});
    bench.connectBench(address);

    WindowWalk walk(window);
    walk.enlarged = EnlargedCamera::times;
    struct Count {
        double wall_s = 0, program_s = 0, camera_s = 0;
        int taken = 0, sent = 0;
    };
    QElapsedTimer clock;
    clock.start();
    int taken = 0, skipped = 0;
    QObject::connect(bench.bench(), &BenchLink::framesSkipped, &window,
                     [&](int frames) { skipped += frames; });
    const auto count = [&] {
        return Count{static_cast<double>(clock.nsecsElapsed()) * 1e-9,
                     processorTime_s(CLOCK_PROCESS_CPUTIME_ID), camera.worked_s(), taken, camera.sent()};
    };
    QObject::connect(bench.bench(), &BenchLink::frame, &window, [&] { ++taken; });
    Count last;
    std::vector<double> shares;
    double seconds = 0, worked = 0;
    int came = 0, sent = 0;
    bool counts = false;
    QTimer each;
    QObject::connect(&each, &QTimer::timeout, &window, [&] {
        const Count now = count();
        if (counts && bench.injecting()) {
            const double own_s = now.program_s - last.program_s - (now.camera_s - last.camera_s);
            shares.push_back(own_s / (now.wall_s - last.wall_s));
            seconds += now.wall_s - last.wall_s;
            worked += own_s;
            came += now.taken - last.taken;
            sent += now.sent - last.sent;
        }
        counts = bench.injecting();
        last = now;
    });
    each.start(1000);
    const bool played = walk.playToTheEnd();
    each.stop();
    if (!played || shares.empty()) {
        std::printf("Large live stream: the demo was not played to its end (%s)\n\n", walk.trouble().c_str());
        return;
    }
    std::string ends, found;
    for (const auto& [id, done] : bench.session()->assessment().state.injections) {
        ends += (ends.empty() ? "" : ", ") + std::string(wordOf(done.cause));
        found += recordedShare(bench.session()->folder().path / done.recording, EnlargedCamera::rate_hz);
    }
    std::printf("Live through the window at 640x512, 60 Hz, %d busy loops beside it: %.0f s of injection, %d "
                "of %d frames "
                "taken, %d left out and said, %.0f %% of a core in all (alone: wanted at most 100), at most "
                "%.0f %% in any "
                "second; it ended with: %s;%s found %s, hidden was C76\n\n",
                busyLoops, seconds, came, sent, skipped, 100 * worked / seconds,
                100 * *std::max_element(shares.begin(), shares.end()), ends.c_str(), found.c_str(),
                bench.session()->assessment().culprit.c_str());
}

} // namespace ustor
