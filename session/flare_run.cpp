#include "session/flare_run.h"

#include <algorithm>
#include <utility>

namespace ustor {

FlareRun::FlareRun(BenchLink& bench, Settings settings, QObject* parent)
    : QObject(parent), m_bench(bench), m_settings(std::move(settings)) {}

double FlareRun::secondsLeft() const {
    return running() ? std::max(0.0, m_end_s - m_bench.benchSeconds()) : 0;
}

Outcome FlareRun::start() {
    if (!m_bench.camera().isConnected())
        return Error{say("the camera is not connected"), "watch", say("nothing was recorded")};
    HeatStream::Settings heat{m_bench.camera().info(), m_settings.recordingFolder, m_settings.registration,
                              m_settings.boardThickness_mm, m_bench.address().speed};
    heat.info.side = m_settings.side;
    m_heat = std::make_unique<HeatStream>(heat);
    if (const auto started = m_heat->start(); !started) return started.error();
    connect(&m_bench, &BenchLink::frame, this, [this](const ThermalFrame& frame) {
        m_lastFrame_s = m_bench.benchSeconds();
        if (!m_ended) m_heat->add(frame, m_lastFrame_s);
    });
    connect(&m_bench, &BenchLink::framesSkipped, m_heat.get(), &HeatStream::skip);
    connect(&m_bench.camera(), &Camera::lost, this, [this] { stop(StopCause::CameraLost); });
    m_lastFrame_s = m_bench.benchSeconds();
    m_end_s = m_lastFrame_s + m_settings.watch_s;
    m_started = true;
    connect(&m_tick, &QTimer::timeout, this, &FlareRun::tick);
    constexpr int tick_ms = 50;
    m_tick.start(tick_ms);
    return Done{};
}

void FlareRun::tick() {
    const double now_s = m_bench.benchSeconds();
    const double silence_s = 2 * m_bench.address().speed * m_bench.address().patience;
    if (now_s - m_lastFrame_s > silence_s) return stop(StopCause::CameraLost);
    if (now_s >= m_end_s) stop(StopCause::Finished);
}

void FlareRun::stop(StopCause cause) {
    if (!running()) return;
    m_ended = true;
    m_tick.stop();
    emit ended();
    m_heat->finish([this, cause](const HeatStream::End& heat) {
        const End end{cause, heat.heat, heat.recordingError};
        QMetaObject::invokeMethod(
            this, [this, end] { emit finished(end); }, Qt::QueuedConnection);
    });
}

} // namespace ustor
