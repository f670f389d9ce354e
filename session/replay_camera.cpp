#include "session/replay_camera.h"

#include "bench/clock.h"

#include <utility>

namespace ustor {

ReplayCamera::ReplayCamera(Recording recording, double speed, QObject* parent)
    : Camera(parent), m_recording(std::move(recording)), m_speed(speed) {
    m_info = m_recording.info;
    m_timer.setInterval(5);
    connect(&m_timer, &QTimer::timeout, this, &ReplayCamera::play);
}

void ReplayCamera::start() {
    m_start_s = hostSeconds();
    m_next = 0;
    m_timer.start();
    emit connected(m_info);
}

void ReplayCamera::play() {
    const double now = (hostSeconds() - m_start_s) * m_speed;
    const double first = m_recording.frames.front().time_s;
    while (m_next < m_recording.frames.size() && m_recording.frames[m_next].time_s - first <= now) {
        const ThermalFrame& next = m_recording.frames[m_next];
        emit frame({next.time_s,
                    next.centikelvin.cols,
                    next.centikelvin.rows,
                    {next.centikelvin.begin<std::uint16_t>(), next.centikelvin.end<std::uint16_t>()}},
                   hostSeconds());
        ++m_next;
    }
    if (m_next == m_recording.frames.size()) {
        m_timer.stop();
        emit lost(say("the recording is at its end"));
    }
}

} // namespace ustor
