#include "session/heat_stream.h"

#include "bench/clock.h"

#include <algorithm>
#include <utility>

namespace ustor {

HeatStream::HeatStream(Settings settings, QObject* parent)
    : QObject(parent), m_settings(std::move(settings)) {}

HeatStream::~HeatStream() {
    for (QThread* thread : {&m_thread, &m_thoughts}) {
        thread->quit();
        thread->wait();
    }
}

Outcome HeatStream::start() {
    m_worker =
        std::make_unique<HeatWorker>(m_settings.info, m_settings.registration, m_settings.boardThickness_mm);
    if (!m_settings.recordingFolder.empty())
        if (const auto made = m_worker->record(m_settings.recordingFolder); !made) return made.error();
    m_inThread.moveToThread(&m_thread);
    m_thread.start();
    m_inThoughts.moveToThread(&m_thoughts);
    m_thoughts.start();
    connect(&m_look, &QTimer::timeout, this, &HeatStream::ask);
    m_lookEvery_ms = std::max(100, static_cast<int>(1000 / m_settings.speed));
    m_look.start(m_lookEvery_ms);
    return Done{};
}

void HeatStream::add(const SupplySample& sample) {
    QMetaObject::invokeMethod(&m_inThread, [this, sample] { m_worker->add(sample); });
}

void HeatStream::add(const Beat& beat) {
    QMetaObject::invokeMethod(&m_inThread, [this, beat] { m_worker->add(beat); });
}

void HeatStream::add(const ThermalFrame& frame, double arrived_s) {
    // Half a second of a fast camera: whoever waits longer sees too late what becomes warm.
    constexpr int mostWaiting = 30;
    if (m_waiting >= mostWaiting) return skip(1);
    ++m_waiting;
    QMetaObject::invokeMethod(&m_inThread, [this, frame, arrived_s] {
        --m_waiting;
        const auto spot = m_worker->add(frame);
        if (spot)
            QMetaObject::invokeMethod(this, [this, arrived_s, s = *spot] { emit warmest(arrived_s, s); });
    });
}

/// In the frames' thread: hands what is known to the thread of the thoughts.
void HeatStream::think(std::function<void(const HeatSoFar&)> then) {
    QMetaObject::invokeMethod(&m_inThoughts,
                              [soFar = m_worker->soFar(), then = std::move(then)] { then(soFar); });
}

void HeatStream::tellSkipped(LiveHeat& heat) const {
    heat.skipped = m_skipped;
    if (m_skipped > 0)
        heat.located.notes.push_back(
            say("{skipped} pictures were left out: they came faster than this machine could look at them",
                {{"skipped", m_skipped}}));
}

void HeatStream::ask() {
    if (m_pending || m_ended) return;
    m_pending = true;
    m_lookSince_s = hostSeconds();
    QMetaObject::invokeMethod(&m_inThread, [this] {
        think([this](const HeatSoFar& soFar) {
            QMetaObject::invokeMethod(this, [this, heat = soFar.look()]() mutable {
                tellSkipped(heat);
                m_pending = false;
                // A large picture takes long to think about: two thirds of a core are left to frames and
                // window.
                const double took_ms = 1e3 * (hostSeconds() - m_lookSince_s);
                m_look.setInterval(std::max(m_lookEvery_ms, static_cast<int>(3 * took_ms)));
                if (!m_ended) emit live(heat);
            });
        });
    });
}

void HeatStream::finish(std::function<void(const End&)> then) {
    m_ended = true;
    m_look.stop();
    QMetaObject::invokeMethod(&m_inThread, [this, then = std::move(then)] {
        m_worker->finish();
        End end;
        end.recordingError = m_worker->writeError();
        think([this, end = std::move(end), then](const HeatSoFar& soFar) mutable {
            end.heat = soFar.lookWhole();
            QMetaObject::invokeMethod(this, [this, end = std::move(end), then]() mutable {
                tellSkipped(end.heat);
                then(end);
            });
        });
    });
}

} // namespace ustor
