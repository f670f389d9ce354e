#include "session/injection_run.h"

#include "session/certainty.h"
#include "session/log.h"

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
    rules.unseen_s *= longer;
    rules.switchesWithin_s *= longer;
    return rules;
}

StopCause stopCauseOf(GuardCause cause) {
    switch (cause) {
    case GuardCause::None:
    case GuardCause::LinkLost:
        return StopCause::LinkLost;
    case GuardCause::WindowSilent:
    case GuardCause::WindowGone:
        return StopCause::ProgramStalled;
    case GuardCause::SupplySilent:
        return StopCause::Silence;
    case GuardCause::SettingRefused:
        return StopCause::SettingRefused;
    case GuardCause::LimitsChanged:
        return StopCause::LimitsChanged;
    case GuardCause::AboveTrip:
        return StopCause::OverLimit;
    case GuardCause::NoSecond:
    case GuardCause::GuardEnded:
        return StopCause::GuardEnded;
    }
    return StopCause::LinkLost;
}

} // namespace

InjectionRun::InjectionRun(BenchLink& bench, Settings settings, QObject* parent)
    : QObject(parent), m_bench(bench), m_settings(std::move(settings)),
      m_supervisor(m_settings.plan, rulesFor(bench.address())) {}

InjectionRun::~InjectionRun() {
    if (m_supervisor.running()) carryOut(m_supervisor.stop(StopCause::Person));
}

Outcome InjectionRun::start() {
    if (!m_bench.supply().isConnected())
        return Error{say("the supply is not connected"), "injection", say("nothing was switched on")};
    if (!m_bench.camera().isConnected())
        return Error{say("the camera is not connected"), "injection", say("nothing was switched on")};
    HeatStream::Settings heat{m_bench.camera().info(), m_settings.recordingFolder, m_settings.registration,
                              m_settings.boardThickness_mm, m_bench.address().speed};
    heat.info.side = m_settings.side;
    m_heat = std::make_unique<HeatStream>(heat);
    if (const auto started = m_heat->start(); !started) return started.error();

    connect(&m_bench, &BenchLink::sample, this, [this](const SupplySample& s) {
        if (m_ended) return;
        m_heat->add(s);
        if (s.watts() > 0) {
            m_onWatts += s.watts();
            ++m_onSamples;
        }
        carryOut(m_supervisor.telemetry(s.time_s, s.output, Volts(s.volts), Amps(s.amps)));
        if (!m_ended) m_pulse.add(s); // what ended it is no setting that stood
    });
    connect(&m_bench, &BenchLink::frame, this, [this](const ThermalFrame& f) {
        // Whether the camera is silent is a matter of arrivals; its stamps may lag.
        if (m_ended) return;
        const double now_s = m_bench.benchSeconds();
        m_supervisor.pictureCame(now_s);
        m_heat->add(f, now_s);
    });
    connect(&m_bench, &BenchLink::framesSkipped, m_heat.get(), &HeatStream::skip);
    connect(m_heat.get(), &HeatStream::warmest, this, [this](double arrived_s, const Warmest& spot) {
        carryOut(m_supervisor.frame(arrived_s, spot.rise_k, spot.surface_c));
    });
    connect(m_heat.get(), &HeatStream::live, this, &InjectionRun::take);
    const auto endFor = [this](StopCause cause, const Message& why) {
        if (m_supervisor.running()) m_why = why;
        stop(cause);
    };
    connect(&m_bench.supply(), &Supply::lost, this,
            [endFor](const Message& why) { endFor(StopCause::LinkLost, why); });
    connect(&m_bench.supply(), &GuardedSupply::switchedOffByGuard, this,
            [endFor](GuardCause cause, const Message& why) { endFor(stopCauseOf(cause), why); });
    connect(&m_bench.supply(), &Supply::refused, this,
            [endFor](const Message& why) { endFor(StopCause::SettingRefused, why); });
    connect(&m_bench.camera(), &Camera::lost, this, [this] { stop(StopCause::CameraLost); });

    const double speed = m_bench.address().speed;
    connect(&m_tick, &QTimer::timeout, this, [this] { carryOut(m_supervisor.tick(m_bench.benchSeconds())); });
    m_tick.setTimerType(Qt::PreciseTimer);
    m_tick.start(std::max(2, static_cast<int>(40 / speed)));

    m_bench.supply().cap(m_settings.plan.limits.volts, m_settings.plan.limits.amps);
    m_start_s = m_bench.benchSeconds();
    m_started = true;
    Log::note(Log::Level::Info, QString("injection begins: %1 steps").arg(m_settings.plan.steps.size()));
    carryOut(m_supervisor.start(m_start_s));
    return Done{};
}

void InjectionRun::carryOut(const std::vector<SupplyCommand>& commands) {
    for (const SupplyCommand& command : commands) {
        if (const auto* limits = std::get_if<SetLimits>(&command))
            m_bench.supply().setLimits(limits->volts, limits->amps, limits->overVoltage, limits->longestOn_s);
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

void InjectionRun::take(const LiveHeat& heat) {
    if (m_ended) return;
    emit live(heat);
    // Twice in a row: a single look may be wrong.
    const bool before = std::exchange(m_certain, isCertain(heat));
    if (m_settings.stopWhenCertain && before && m_certain) stop(StopCause::Certain);
}

void InjectionRun::end() {
    m_ended = true;
    m_end_s = m_bench.benchSeconds();
    m_tick.stop();
    Log::note(Log::Level::Info, QString("injection ended: %1 (%2)")
                                    .arg(QString::fromUtf8(wordOf(m_supervisor.cause()).data()),
                                         Log::withoutPlaces(QString::fromStdString(m_why.text()))));
    emit ended();
    m_heat->finish([this](const HeatStream::End& end) { tell(end); });
}

InjectionOutcome InjectionRun::soFar() const {
    InjectionOutcome outcome;
    outcome.cause = m_supervisor.cause();
    outcome.why = m_why;
    const auto& step = m_settings.plan.steps[m_supervisor.step()];
    outcome.volts = step.volts.value;
    outcome.amps = step.amps.value;
    outcome.deliveredWatts = m_onSamples > 0 ? m_onWatts / m_onSamples : 0;
    outcome.shown = m_pulse.shown();
    outcome.seconds = m_end_s - m_start_s;
    return outcome;
}

void InjectionRun::tell(const HeatStream::End& end) {
    m_told = true;
    InjectionOutcome outcome = soFar();
    outcome.heat = end.heat;
    outcome.recordingError = end.recordingError;
    if (end.recordingError)
        Log::note(Log::Level::Fault,
                  "the recording: " + QString::fromStdString(end.recordingError->what.text()));
    if (end.heat.skipped > 0)
        Log::note(Log::Level::Warning, QString("%1 pictures were left out").arg(end.heat.skipped));
    emit live(outcome.heat);
    // In a turn of its own: what follows from the facts is work enough for one.
    QMetaObject::invokeMethod(
        this, [this, outcome = std::move(outcome)] { emit finished(outcome); }, Qt::QueuedConnection);
}

} // namespace ustor
