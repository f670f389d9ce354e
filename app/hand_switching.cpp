#include "app/hand_switching.h"

#include "app/next_panel.h"
#include "app/tone.h"
#include "app/words.h"
#include "base/quantity_text.h"
#include "session/certainty.h"

#include <cmath>

namespace ustor {

HandSwitching::HandSwitching(BenchLink& bench, MetronomeRun::Settings settings, NextPanel& next,
                             QObject* parent)
    : QObject(parent), m_next(next), m_run(bench, std::move(settings)) {
    constexpr int count_ms = 100;
    m_count.setInterval(count_ms);
    connect(&m_count, &QTimer::timeout, this, &HandSwitching::count);
    connect(&m_run, &MetronomeRun::beat, this, [this](bool on) {
        constexpr double high_hz = 1100, low_hz = 550;
        playTone(on ? high_hz : low_hz);
        count();
    });
    connect(&m_run, &MetronomeRun::live, this, [this](const LiveHeat& heat) {
        const auto left_s = secondsToCertain(heat);
        m_found = heat.located.sources.empty()
                      ? tr("nothing certain yet")
                      : tr("%1 sigma").arg(heat.located.sources.front().spot.snr, 0, 'f', 0);
        if (left_s && *left_s > 0) m_found += tr(", certain in about %1 s").arg(*left_s, 0, 'f', 0);
        emit live(heat);
    });
    connect(&m_run, &MetronomeRun::ended, this, [this] {
        m_count.stop();
        m_next.showBusy(tr("Switch the output OFF now"),
                        tr("What was recorded is gone over as a whole; the answer comes in a moment."));
    });
    connect(&m_run, &MetronomeRun::finished, this, &HandSwitching::finished);
}

void HandSwitching::prepare(const QString& plus, const QString& minus) {
    const InjectionStep& step = m_run.step();
    m_next.ask(tr("Set %1 and %2 on the supply, output off")
                   .arg(text(quantityText(step.volts.value, "V")), text(quantityText(step.amps.value, "A"))),
               tr("Plus lead on %1, minus on %2. Then switch by the beats: a high tone is on, a low one off. "
                  "This supply cannot be switched from here: keep a hand at it.")
                   .arg(plus, minus),
               tr("Ready, begin"), [this] { begin(); });
}

void HandSwitching::begin() {
    m_waits = false;
    if (const auto started = m_run.start(); !started) {
        m_next.endBusy();
        return emit refused(text(started.error()));
    }
    m_found = tr("nothing certain yet");
    m_count.start();
    count();
    emit began();
}

void HandSwitching::count() {
    if (!m_run.running()) return;
    const QString seconds = QString::number(std::ceil(m_run.secondsToBeat()), 'f', 0);
    m_next.showBusy(m_run.wantsOn() ? tr("Output ON \u2013 off in %1").arg(seconds)
                                    : tr("Output OFF \u2013 on in %1").arg(seconds),
                    tr("%1. Esc ends it.").arg(m_found));
}

void HandSwitching::stop() {
    m_run.stop(StopCause::Person);
}

} // namespace ustor
