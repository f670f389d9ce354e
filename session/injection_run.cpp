#include "session/injection_run.h"

#include "bench/clock.h"

#include <algorithm>
#include <utility>

namespace ustor {

namespace {

/// Silence is a matter of the host and its wires: on a bench that runs faster than the wall it is counted in
/// the wall's seconds.
Supervisor::Rules rulesFor(const BenchAddress& bench) {
    Supervisor::Rules rules;
    const double longer = bench.speed * bench.patience;
    rules.silence_s *= longer;
    rules.cameraSilence_s *= longer;
    rules.switchesWithin_s *= longer;
    return rules;
}

} // namespace

InjectionRun::InjectionRun(BenchLink& bench, Settings settings, QObject* parent)
    : QObject(parent), m_bench(bench), m_settings(std::move(settings)),
      m_supervisor(m_settings.plan, rulesFor(bench.address())) {}

InjectionRun::~InjectionRun() {
    if (m_supervisor.running()) carryOut(m_supervisor.stop(StopCause::Person));
    for (QThread* thread : {&m_thread, &m_thoughts}) {
        thread->quit();
        thread->wait();
    }
}

Outcome InjectionRun::start() {
    if (!m_bench.supply().isConnected())
        return Error{"the supply is not connected", "injection", "nothing was switched on"};
    if (!m_bench.camera().isConnected())
        return Error{"the camera is not connected", "injection", "nothing was switched on"};
    RecordingInfo info = m_bench.camera().info();
    info.side = m_settings.side;
    m_worker = std::make_unique<HeatWorker>(info, m_settings.registration, m_settings.boardThickness_mm);
    if (!m_settings.recordingFolder.empty())
        if (const auto made = m_worker->record(m_settings.recordingFolder); !made) return made.error();
    m_inThread.moveToThread(&m_thread);
    m_thread.start();
    m_inThoughts.moveToThread(&m_thoughts);
    m_thoughts.start();

    connect(&m_bench, &BenchLink::sample, this, [this](const SupplySample& s) {
        if (m_ended) return;
        QMetaObject::invokeMethod(&m_inThread, [this, s] { m_worker->add(s); });
        carryOut(m_supervisor.telemetry(s.time_s, s.output, Volts(s.volts), Amps(s.amps)));
    });
    connect(&m_bench, &BenchLink::frame, this, [this](const ThermalFrame& f) {
        if (m_ended) return;
        // Whether the camera is silent is a matter of arrivals; its stamps may lag.
        QMetaObject::invokeMethod(&m_inThread, [this, f, arrived_s = m_bench.benchSeconds()] {
            const auto warmest = m_worker->add(f);
            if (!warmest) return;
            QMetaObject::invokeMethod(
                this, [this, arrived_s, k = *warmest] { carryOut(m_supervisor.frame(arrived_s, k)); });
        });
    });
    connect(&m_bench.supply(), &Supply::lost, this, [this] { stop(StopCause::LinkLost); });
    connect(&m_bench.supply(), &GuardedSupply::switchedOffByGuard, this,
            [this] { stop(StopCause::LinkLost); });
    connect(&m_bench.supply(), &Supply::refused, this, [this] { stop(StopCause::LinkLost); });
    connect(&m_bench.camera(), &Camera::lost, this, [this] { stop(StopCause::CameraLost); });

    const double speed = m_bench.address().speed;
    connect(&m_tick, &QTimer::timeout, this, [this] { carryOut(m_supervisor.tick(m_bench.benchSeconds())); });
    m_tick.setTimerType(Qt::PreciseTimer);
    m_tick.start(std::max(2, static_cast<int>(40 / speed)));
    connect(&m_look, &QTimer::timeout, this, &InjectionRun::askWorker);
    m_lookEvery_ms = std::max(100, static_cast<int>(1000 / speed));
    m_look.start(m_lookEvery_ms);

    m_bench.supply().cap(m_settings.plan.limits.volts, m_settings.plan.limits.amps);
    m_start_s = m_bench.benchSeconds();
    m_started = true;
    carryOut(m_supervisor.start(m_start_s));
    return Done{};
}

void InjectionRun::carryOut(const std::vector<SupplyCommand>& commands) {
    for (const SupplyCommand& command : commands) {
        if (const auto* limits = std::get_if<SetLimits>(&command))
            m_bench.supply().setLimits(limits->volts, limits->amps, limits->overVoltage);
        else if (std::holds_alternative<SwitchOn>(command))
            m_bench.supply().switchOn();
        else
            m_bench.supply().switchOff();
    }
    if (m_started && !m_supervisor.running() && !m_ended) end();
}

void InjectionRun::stop(StopCause cause) {
    if (m_supervisor.running()) carryOut(m_supervisor.stop(cause));
}

/// In the frames' thread: hands what is known to the thread of the thoughts.
void InjectionRun::think(std::function<void(LiveHeat)> then) {
    QMetaObject::invokeMethod(&m_inThoughts,
                              [soFar = m_worker->soFar(), then = std::move(then)] { then(soFar.look()); });
}

void InjectionRun::askWorker() {
    if (m_lookPending || m_ended) return;
    m_lookPending = true;
    m_lookSince_s = hostSeconds();
    QMetaObject::invokeMethod(&m_inThread, [this] {
        think([this](LiveHeat heat) {
            QMetaObject::invokeMethod(this, [this, heat = std::move(heat)] { take(heat); });
        });
    });
}

void InjectionRun::take(const LiveHeat& heat) {
    m_lookPending = false;
    // A large picture takes long to think about: two thirds of a core are left to frames and window.
    const double took_ms = 1e3 * (hostSeconds() - m_lookSince_s);
    m_look.setInterval(std::max(m_lookEvery_ms, static_cast<int>(3 * took_ms)));
    if (m_ended) return;
    m_last = heat;
    emit live(heat);
    if (!m_settings.stopWhenCertain || heat.located.sources.empty()) return;
    // Certain: a point far above the noise whose place is known to a fraction of a small part, twice in a
    // row.
    const auto& first = heat.located.sources.front();
    constexpr double clearSnr = 12, fewestSeconds = 8, finePixels = 0.25;
    const bool certain = heat.located.verdict == HeatVerdict::Point && first.spot.snr > clearSnr &&
                         first.spot.sigma_px < finePixels && heat.seconds > fewestSeconds;
    if (!certain)
        m_certainSince_s = -1;
    else if (m_certainSince_s < 0)
        m_certainSince_s = heat.seconds;
    else
        stop(StopCause::Certain);
}

void InjectionRun::end() {
    m_ended = true;
    m_tick.stop();
    m_look.stop();
    QMetaObject::invokeMethod(&m_inThread, [this] {
        m_worker->finish();
        InjectionOutcome outcome;
        outcome.deliveredWatts = m_worker->meanWatts();
        outcome.recordingError = m_worker->writeError();
        think([this, outcome = std::move(outcome)](LiveHeat heat) mutable {
            outcome.heat = std::move(heat);
            QMetaObject::invokeMethod(this, [this, outcome = std::move(outcome)] { tell(outcome); });
        });
    });
}

void InjectionRun::tell(InjectionOutcome outcome) {
    outcome.cause = m_supervisor.cause();
    const auto& step = m_settings.plan.steps[m_supervisor.step()];
    outcome.volts = step.volts.value;
    outcome.amps = step.amps.value;
    outcome.seconds = m_bench.benchSeconds() - m_start_s;
    emit live(outcome.heat);
    // In a turn of its own: what follows from the facts is work enough for one.
    QMetaObject::invokeMethod(
        this, [this, outcome = std::move(outcome)] { emit finished(outcome); }, Qt::QueuedConnection);
}

} // namespace ustor
