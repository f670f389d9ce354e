#include "injection/supervisor.h"

#include "base/check.h"

#include <algorithm>

namespace ustor {

std::string_view wordOf(StopCause cause) {
    switch (cause) {
    case StopCause::None:
        return "none";
    case StopCause::Finished:
        return "finished";
    case StopCause::Certain:
        return "certain";
    case StopCause::Person:
        return "person";
    case StopCause::LinkLost:
        return "link lost";
    case StopCause::Silence:
        return "silence";
    case StopCause::CameraLost:
        return "camera lost";
    case StopCause::TooWarm:
        return "too warm";
    case StopCause::CurrentJumped:
        return "current jumped";
    case StopCause::OutputRefused:
        return "output refused";
    case StopCause::OverLimit:
        return "over limit";
    case StopCause::ProgramEnded:
        return "program ended";
    }
    return "none";
}

std::string_view sentenceOf(StopCause cause) {
    switch (cause) {
    case StopCause::None:
        return "Nothing has stopped it.";
    case StopCause::Finished:
        return "All steps are done; the output is off.";
    case StopCause::Certain:
        return "The spot is located; the output is off.";
    case StopCause::Person:
        return "Stopped by hand; the output is off.";
    case StopCause::LinkLost:
        return "The link to the supply is gone; the guard switches the output off. Check the cable, then "
               "start again.";
    case StopCause::Silence:
        return "The supply said nothing for a second; the output was switched off. Check supply and cable.";
    case StopCause::CameraLost:
        return "The camera sent no picture; the output is off. Check the camera, then start again.";
    case StopCause::TooWarm:
        return "A spot became too warm; the output is off. Let it cool and use a lower step.";
    case StopCause::CurrentJumped:
        return "The current fell at once: something opened, or a clip came off. Look before going on.";
    case StopCause::OutputRefused:
        return "The supply's output did not stay on: its protection tripped, or somebody switched it off. "
               "Look at "
               "the supply before going on.";
    case StopCause::OverLimit:
        return "More than the limit was read back; the output is off. Check the supply's settings.";
    case StopCause::ProgramEnded:
        return "The program ended before the run did, or before it was noted. See that the output is off.";
    }
    return "";
}

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
    m_start_s = m_now_s = m_lastTelemetry_s = m_lastFrame_s = time_s;
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
    return {SwitchOff{}, SetLimits{step.volts, step.amps, step.overVoltage}};
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

std::vector<SupplyCommand> Supervisor::frame(double time_s, double warmestRise_k) {
    m_lastFrame_s = std::max(m_lastFrame_s, time_s);
    if (m_running && warmestRise_k > m_rules.warmest_k) return stop(StopCause::TooWarm);
    return {};
}

std::vector<SupplyCommand> Supervisor::tick(double time_s) {
    if (!m_running) return {};
    m_now_s = std::max(m_now_s, time_s);
    if (m_now_s - m_lastTelemetry_s > m_rules.silence_s) return stop(StopCause::Silence);
    if (m_now_s - m_lastFrame_s > m_rules.cameraSilence_s) return stop(StopCause::CameraLost);
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
