#include "app/flare_watch.h"

#include "app/next_panel.h"
#include "app/words.h"

#include <cmath>

namespace ustor {

FlareWatch::FlareWatch(BenchLink& bench, FlareRun::Settings settings, NextPanel& next, QObject* parent)
    : QObject(parent), m_next(next), m_run(bench, std::move(settings)) {
    constexpr int count_ms = 200;
    m_count.setInterval(count_ms);
    connect(&m_count, &QTimer::timeout, this, &FlareWatch::count);
    connect(&m_run, &FlareRun::ended, this, [this] {
        m_count.stop();
        m_next.showBusy(tr("Power off"),
                        tr("What was recorded is gone over as a whole; the answer comes in a moment."));
    });
    connect(&m_run, &FlareRun::finished, this, &FlareWatch::finished);
}

void FlareWatch::prepare() {
    m_next.ask(
        tr("Power the board with its own source, limited"),
        tr("It tries to start and gives up, again and again: what is shorted becomes warm with each try. "
           "Hands out of the picture; this source cannot be switched from here: keep a hand at it."),
        tr("It has power, watch"), [this] { begin(); });
}

void FlareWatch::begin() {
    m_waits = false;
    if (const auto started = m_run.start(); !started) {
        m_next.endBusy();
        return emit refused(text(started.error()));
    }
    m_count.start();
    count();
}

void FlareWatch::count() {
    if (!m_run.running()) return;
    m_next.showBusy(tr("Watching, %1 s left").arg(std::ceil(m_run.secondsLeft()), 0, 'f', 0),
                    tr("What comes and goes is looked for at the end. Esc ends it."));
}

} // namespace ustor
