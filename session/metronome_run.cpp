#include "session/metronome_run.h"

#include "session/certainty.h"

#include <algorithm>
#include <utility>

namespace ustor {

MetronomeRun::MetronomeRun(BenchLink& bench, Settings settings, QObject* parent)
    : QObject(parent), m_bench(bench), m_settings(std::move(settings)) {
    const int last = static_cast<int>(m_settings.injection.plan.steps.size()) - 1;
    m_settings.rung = std::clamp(m_settings.rung, 0, last);
}

const InjectionStep& MetronomeRun::step() const {
    return m_settings.injection.plan.steps[static_cast<std::size_t>(m_settings.rung)];
}

InjectionOutcome MetronomeRun::soFar() const {
    InjectionOutcome outcome;
    outcome.cause = m_cause;
    outcome.volts = step().volts.value;
    outcome.amps = step().amps.value;
    outcome.byHand = true;
    outcome.seconds = m_end_s - m_start_s;
    return outcome;
}

double MetronomeRun::secondsToBeat() const {
    return std::max(0.0, m_next_s - m_bench.benchSeconds());
}

Outcome MetronomeRun::start() {
    if (!m_bench.camera().isConnected())
        return Error{say("the camera is not connected"), "injection", say("leave the output off")};
    const InjectionRun::Settings& injection = m_settings.injection;
    const double speed = m_bench.address().speed;
    HeatStream::Settings heat{m_bench.camera().info(), injection.recordingFolder, injection.registration,
                              injection.boardThickness_mm, speed};
    heat.info.side = injection.side;
    m_heat = std::make_unique<HeatStream>(heat);
    if (const auto started = m_heat->start(); !started) return started.error();
    connect(&m_bench, &BenchLink::frame, this, [this](const ThermalFrame& f) {
        m_lastFrame_s = m_bench.benchSeconds();
        if (!m_ended) m_heat->add(f, m_lastFrame_s);
    });
    connect(&m_bench, &BenchLink::framesSkipped, m_heat.get(), &HeatStream::skip);
    connect(m_heat.get(), &HeatStream::warmest, this, [this](double, const Warmest& spot) {
        if (spot.surface_c > m_settings.rules.hottest_c) stop(StopCause::TooHot);
        if (spot.rise_k > m_settings.rules.warmest_k) stop(StopCause::TooWarm);
    });
    connect(m_heat.get(), &HeatStream::live, this, [this](const LiveHeat& seen) {
        if (m_ended) return;
        emit live(seen);
        const bool before = std::exchange(m_certain, isCertain(seen));
        // In the pause: then the output is off already.
        if (m_settings.injection.stopWhenCertain && before && m_certain && !m_on) stop(StopCause::Certain);
    });
    connect(&m_bench.camera(), &Camera::lost, this, [this] { stop(StopCause::CameraLost); });
    m_start_s = m_lastFrame_s = m_bench.benchSeconds();
    m_next_s = m_start_s + m_settings.before_s;
    m_started = true;
    connect(&m_tick, &QTimer::timeout, this, &MetronomeRun::tick);
    m_tick.setTimerType(Qt::PreciseTimer);
    m_tick.start(std::max(2, static_cast<int>(40 / speed)));
    return Done{};
}

void MetronomeRun::give(bool on) {
    m_on = on;
    m_heat->add(Beat{m_bench.benchSeconds(), on});
    emit beat(on);
}

void MetronomeRun::tick() {
    const double now_s = m_bench.benchSeconds();
    const double silence_s = 2 * m_bench.address().speed * m_bench.address().patience;
    if (now_s - m_lastFrame_s > silence_s) return stop(StopCause::CameraLost);
    if (now_s < m_next_s) return;
    if (!m_on && m_pulse == m_settings.pulses) return stop(StopCause::Finished);
    m_next_s += m_on ? m_settings.off_s : m_settings.on_s;
    m_pulse += !m_on;
    give(!m_on);
}

void MetronomeRun::stop(StopCause cause) {
    if (!running()) return;
    m_ended = true;
    m_cause = cause;
    m_end_s = m_bench.benchSeconds();
    m_tick.stop();
    if (m_on) give(false);
    emit ended();
    m_heat->finish([this](const HeatStream::End& end) {
        m_told = true;
        InjectionOutcome outcome = soFar();
        outcome.heat = end.heat;
        outcome.recordingError = end.recordingError;
        emit live(outcome.heat);
        QMetaObject::invokeMethod(
            this, [this, outcome] { emit finished(outcome); }, Qt::QueuedConnection);
    });
}

} // namespace ustor
