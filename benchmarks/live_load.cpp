#include "app/workbench.h"
#include "benchmarks.h"
#include "demo/window_walk.h"
#include "processor_time.h"
#include "watched_application.h"

#include <QElapsedTimer>
#include <QTemporaryDir>
#include <QTimer>
#include <algorithm>
#include <cstdio>

namespace ustor {
/// Time between two turns of the event loop while the demo is played at the wall's own speed: the longest is
/// the longest that the window did not listen.
void benchLiveLoad() {
    const QTemporaryDir folder;
    auto book = Casebook::open(folder.path().toStdString());
    if (!book) return;
    MainWindow window(std::move(book.value()));
    window.show();
    window.openDemo(1);
    std::vector<double> gaps_ms, work_ms;
    double workBefore_ms = 1e3 * processorTime_s(CLOCK_THREAD_CPUTIME_ID);
    QElapsedTimer clock;
    QTimer heartbeat;
    heartbeat.setTimerType(Qt::PreciseTimer);
    bool counting = false;
    int frames = 0;
    QObject::connect(&heartbeat, &QTimer::timeout, &heartbeat, [&] {
        const double gap = static_cast<double>(clock.nsecsElapsed()) * 1e-6;
        clock.restart();
        const double work = 1e3 * processorTime_s(CLOCK_THREAD_CPUTIME_ID);
        if (counting) {
            gaps_ms.push_back(gap);
            work_ms.push_back(work - workBefore_ms);
        }
        workBefore_ms = work;
    });
    WindowWalk walk(window);
    QElapsedTimer live;
    double seconds = 0;
    std::vector<WatchedApplication::LongEvent> longest;
    walk.at = [&](WindowWalk::Moment moment) {
        if (moment == WindowWalk::Moment::Aligning) {
            QObject::connect(window.workbench().bench(), &BenchLink::frame, &heartbeat,
                             [&] { frames += counting; });
            clock.start();
            live.start();
            static_cast<WatchedApplication*>(qApp)->watch();
            counting = true;
        } else if (moment == WindowWalk::Moment::Judged) {
            counting = false;
            longest = static_cast<WatchedApplication*>(qApp)->longest();
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
    const auto longestGap = std::max_element(gaps_ms.begin(), gaps_ms.end());
    const double workThen_ms = work_ms[static_cast<std::size_t>(longestGap - gaps_ms.begin())];
    const double mostWork_ms = *std::max_element(work_ms.begin(), work_ms.end());
    std::sort(gaps_ms.begin(), gaps_ms.end());
    std::printf("Live work through the window at 160x120, %.0f s: %.1f frames a second taken; event loop "
                "turns: median %.1f ms, 99 of 100 within %.1f ms, longest %.1f ms (wanted at most 50), of "
                "which the window worked %.1f ms; "
                "most work in one turn %.1f ms\n",
                seconds, frames / seconds, gaps_ms[gaps_ms.size() / 2], gaps_ms[gaps_ms.size() * 99 / 100],
                gaps_ms.back(), workThen_ms, mostWork_ms);
    for (const auto& event : longest)
        std::printf("  %6.1f ms  %s\n", event.milliseconds, event.what.c_str());
    std::printf("\n");
}

} // namespace ustor
