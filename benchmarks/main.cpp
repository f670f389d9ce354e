#include "app/look.h"
#include "app/workbench.h"
#include "base/random.h"
#include "board/board_files.h"
#include "demo/window_walk.h"
#include "session/practice/auto_walk.h"
#include "session/practice/demo_case.h"
#include "session/practice/standin_process.h"
#include "thermal/step_response.h"

#include <CLI/CLI.hpp>
#include <QApplication>
#include <QElapsedTimer>
#include <QTemporaryDir>
#include <QTimer>
#include <algorithm>
#include <cstdio>

namespace {

using namespace ustor;

struct Tally {
    int runs = 0, first = 0, three = 0, naive = 0, unfinished = 0;
};

void oneWalk(const Board& board, const QStringList& files, std::uint64_t seed, double speed, Tally& tally) {
    ++tally.runs;
    StandInProcess standIn;
    const QTemporaryDir folder;
    auto made = CaseFolder::create(folder.filePath("case").toStdString(), "bench", board);
    const auto started =
        standIn.start(programBeside("ustor-standin"), files + QStringList{"--seed", QString::number(seed),
                                                                          "--speed", QString::number(speed)});
    Hands hands;
    if (!made || !started || !hands.open(standIn.address().control)) {
        ++tally.unfinished;
        return;
    }
    CaseSession session(std::move(made.value()), {});
    BenchLink bench(programBeside("ustor-guard"));
    bench.open(standIn.address());
    WalkSettings settings;
    settings.seed = seed;
    const WalkResult walk = autoWalk(session, bench, hands, settings);
    tally.first += walk.finished && walk.rank == 1;
    tally.three += walk.finished && walk.rank >= 1 && walk.rank <= 3;
    tally.naive += walk.finished && walk.hottestPixel == walk.hidden;
    tally.unfinished += !walk.finished;
    std::printf("  seed %-4llu hidden %-5s %7.3f ohm  rank %d at %3.0f %%  hottest pixel %-5s %s\n",
                static_cast<unsigned long long>(seed), walk.hidden.c_str(), walk.hiddenOhms, walk.rank,
                100 * walk.odds, walk.hottestPixel.c_str(), walk.trouble.c_str());
    std::fflush(stdout);
}

void walks(int runs, std::uint64_t seed, double speed) {
    const auto folder = demoFolder();
    if (!folder) return;
    std::printf(
        "Right part before anything is lifted, %d faults on each of two boards, fresh seeds from %llu:\n",
        runs, static_cast<unsigned long long>(seed));
    Tally tally;
    for (const char* stem : {"chart-plotter", "greenhouse-controller"}) {
        const std::string base = (folder.value() / "boards" / stem).string();
        const auto board = readBoardFiles({base + ".356", base + ".centroid.csv"});
        if (!board) continue;
        std::printf(" %s\n", stem);
        for (int i = 0; i < runs; ++i)
            oneWalk(board.value(),
                    {QString::fromStdString(base + ".356"), QString::fromStdString(base + ".centroid.csv")},
                    seed + static_cast<std::uint64_t>(i), speed, tally);
    }
    std::printf(" of %d: first %d (wanted 80 %%), among the first three %d (wanted 95 %%), unfinished %d; "
                "hottest pixel of the last picture right %d times\n\n",
                tally.runs, tally.first, tally.three, tally.unfinished, tally.naive);
}

/// Time between two turns of the event loop while the demo is played at the wall's own speed: the longest is
/// the longest that the window did not listen.
void liveLoad() {
    const QTemporaryDir folder;
    auto book = Casebook::open(folder.path().toStdString());
    if (!book) return;
    MainWindow window(std::move(book.value()));
    window.show();
    window.openDemo(1);
    std::vector<double> gaps_ms;
    QElapsedTimer clock;
    QTimer heartbeat;
    heartbeat.setTimerType(Qt::PreciseTimer);
    bool counting = false;
    int frames = 0;
    QObject::connect(&heartbeat, &QTimer::timeout, &heartbeat, [&] {
        const double gap = static_cast<double>(clock.nsecsElapsed()) * 1e-6;
        clock.restart();
        if (counting) gaps_ms.push_back(gap);
    });
    WindowWalk walk(window);
    QElapsedTimer live;
    double seconds = 0;
    walk.at = [&](WindowWalk::Moment moment) {
        if (moment == WindowWalk::Moment::Aligning) {
            QObject::connect(window.workbench().bench(), &BenchLink::frame, &heartbeat,
                             [&] { frames += counting; });
            clock.start();
            live.start();
            counting = true;
        } else if (moment == WindowWalk::Moment::Judged) {
            counting = false;
            seconds = static_cast<double>(live.elapsed()) * 1e-3;
        }
    };
    heartbeat.start(1);
    clock.start();
    const bool played = walk.playToTheEnd();
    heartbeat.stop();
    if (!played || gaps_ms.empty()) {
        std::printf("Live load: the demo was not played to its end (%s)\n\n", walk.trouble().c_str());
        return;
    }
    std::sort(gaps_ms.begin(), gaps_ms.end());
    std::printf("Live work through the window at 160x120, %.0f s: %.1f frames a second taken; event loop "
                "turns: median %.1f ms, 99 of 100 within %.1f ms, longest %.1f ms (wanted at most 50)\n\n",
                seconds, frames / seconds, gaps_ms[gaps_ms.size() / 2], gaps_ms[gaps_ms.size() * 99 / 100],
                gaps_ms.back());
}

/// The response model's update against the least that any per-pixel method has to do: adding the frame up
/// once.
void updateCost() {
    constexpr int width = 160, height = 120, frames = 1000;
    Random random(1);
    cv::Mat frame(height, width, CV_32FC1);
    for (float& v : cv::Mat_<float>(frame))
        v = static_cast<float>(random.normal());
    QElapsedTimer clock;
    clock.start();
    cv::Mat sum = cv::Mat::zeros(height, width, CV_64FC1);
    for (int i = 0; i < frames; ++i)
        cv::add(sum, frame, sum, cv::noArray(), CV_64F);
    const double reference = static_cast<double>(clock.nsecsElapsed());
    StepResponse response(width, height);
    clock.restart();
    for (int i = 0; i < frames; ++i)
        response.add(i * 0.04, i % 50 < 25 ? 0.0 : 1.0, frame);
    const double update = static_cast<double>(clock.nsecsElapsed());
    clock.restart();
    constexpr int maps = 20;
    double touched = 0;
    for (int i = 0; i < maps; ++i) {
        response.add(frames * 0.04 + i * 0.04, 0, frame); // forces a fresh solution
        touched += response.at(0.6).sigma_k_per_w;
    }
    const double solution = static_cast<double>(clock.nsecsElapsed()) / maps;
    std::printf("Response model, 160x120: one update costs %.1f times adding the frame to a sum (%.2f of a "
                "frame's time at 25 Hz); a map costs %.1f updates\n",
                update / reference, update / frames / 40e6, solution / (update / frames));
    if (touched < 0) std::printf("\n"); // the work above is kept by its use here
}

} // namespace

int main(int argc, char** argv) {
    QApplication qt(argc, argv);
    QApplication::setApplicationName("ustor-bench");
    CLI::App app{"Measures: right parts over simulated faults, live load, cost of the estimator."};
    int runs = 20;
    std::uint64_t seed = 2000;
    double speed = 3;
    app.add_option("--runs", runs, "Faults on each board");
    app.add_option("--seed", seed, "First seed");
    app.add_option("--speed", speed, "How much faster than the wall the simulated benches run");
    CLI11_PARSE(app, argc, argv);
    Look::install(qt);
    updateCost();
    liveLoad();
    if (runs > 0) walks(runs, seed, speed);
    return 0;
}
