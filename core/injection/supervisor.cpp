#include "injection/supervisor.h"

#include "base/check.h"

#include <algorithm>

namespace ustor {

namespace {

/// A timer in the supply stands behind everything else: it must not cut a pulse short on a busy machine.
double longestOn_s(const InjectionStep& step) {
    constexpr double share = 1.5, more_s = 1;
    return share * step.on.value + more_s;
}

} // namespace

double Supervisor::planSeconds() const {
    double seconds = 0;
    for (const auto& step : m_plan.steps)
        seconds += step.seconds();
    return seconds;
}

double Supervisor::progress() const {
    const double whole = planSeconds();
    return whole > 0 ? std::clamp((m_now_s - m_start_s) / whole, 0.0, 1.0) : 1.0;
}

std::vector<SupplyCommand> Supervisor::start(double time_s) {
    USTOR_CHECK(!m_plan.steps.empty(), "a plan needs a step");
    m_running = true;
    m_cause = StopCause::None;
    m_start_s = m_now_s = m_lastTelemetry_s = m_lastFrame_s = m_lastLook_s = time_s;
    m_step = 0;
    return beginStep(time_s);
}

std::vector<SupplyCommand> Supervisor::beginStep(double time_s) {
    const InjectionStep& step = m_plan.steps[m_step];
    m_pulse = 0;
    m_outputWanted = false;
    // A moment of rest first: the pictures before the switch are what everything is compared with.
    m_phaseEnds_s = time_s + step.off.value;
    m_switched_s = time_s;
    return {SwitchOff{}, SetLimits{step.volts, step.amps, step.overVoltage, longestOn_s(step)}};
}

std::vector<SupplyCommand> Supervisor::stop(StopCause cause) {
    if (m_running) {
        m_running = false;
        m_cause = cause;
    }
    m_outputWanted = false;
    return {SwitchOff{}};
}

std::vector<SupplyCommand> Supervisor::telemetry(double time_s, bool output, Volts volts, Amps amps) {
    // Lines that waited in a pipe tell of the past.
    m_lastTelemetry_s = std::max(m_lastTelemetry_s, time_s);
    if (!m_running) return output ? std::vector<SupplyCommand>{SwitchOff{}} : std::vector<SupplyCommand>{};
    const InjectionStep& step = m_plan.steps[m_step];
    // A tenth above the set limit covers the readback of any supply; the plan's own bounds hold without it.
    constexpr double readback = 1.1, floor_v = 0.02, floor_a = 0.02;
    if (output && (volts.value > step.volts.value * readback + floor_v ||
                   amps.value > step.amps.value * readback + floor_a))
        return stop(StopCause::OverLimit);
    // Once it came on it stays on: else somebody, or its protection, switched it off.
    m_outputSeen = m_outputSeen || (output && m_outputWanted && time_s > m_switched_s);
    if (!output && m_outputWanted &&
        (m_outputSeen ? time_s > m_switched_s : time_s - m_switched_s > m_rules.switchesWithin_s))
        return stop(StopCause::OutputRefused);
    constexpr double settle_s = 0.25;
    if (output && m_outputWanted && time_s - m_switched_s > settle_s) {
        if (m_pulsePeak_a > 0.02 && amps.value < (1 - m_rules.jumpShare) * m_pulsePeak_a)
            return stop(StopCause::CurrentJumped);
        m_pulsePeak_a = std::max(m_pulsePeak_a, amps.value);
    }
    return tick(time_s);
}

void Supervisor::pictureCame(double time_s) {
    m_lastFrame_s = std::max(m_lastFrame_s, time_s);
}

std::vector<SupplyCommand> Supervisor::frame(double time_s, double warmestRise_k, double hottest_c) {
    m_lastFrame_s = std::max(m_lastFrame_s, time_s);
    m_lastLook_s = std::max(m_lastLook_s, time_s);
    if (m_running && hottest_c > m_rules.hottest_c) return stop(StopCause::TooHot);
    if (m_running && warmestRise_k > m_rules.warmest_k) return stop(StopCause::TooWarm);
    return {};
}

std::vector<SupplyCommand> Supervisor::tick(double time_s) {
    if (!m_running) return {};
    m_now_s = std::max(m_now_s, time_s);
    if (m_now_s - m_lastTelemetry_s > m_rules.silence_s) return stop(StopCause::Silence);
    if (m_now_s - m_lastFrame_s > m_rules.cameraSilence_s) return stop(StopCause::CameraLost);
    if (m_now_s - m_lastLook_s > m_rules.unseen_s) return stop(StopCause::PicturesUnseen);
    if (m_now_s < m_phaseEnds_s) return {};

    const InjectionStep& step = m_plan.steps[m_step];
    m_switched_s = m_now_s;
    m_pulsePeak_a = 0;
    if (!m_outputWanted) {
        if (m_pulse >= step.pulses) {
            if (m_step + 1 >= static_cast<int>(m_plan.steps.size())) return stop(StopCause::Finished);
            ++m_step;
            return beginStep(m_now_s);
        }
        m_outputWanted = true;
        m_outputSeen = false;
        m_phaseEnds_s = m_now_s + step.on.value;
        return {SwitchOn{}};
    }
    m_outputWanted = false;
    ++m_pulse;
    m_phaseEnds_s = m_now_s + step.off.value;
    return {SwitchOff{}};
}

} // namespace ustor
