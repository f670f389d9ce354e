#pragma once

#include "injection/plan.h"
#include "injection/stop_cause.h"

#include <variant>

namespace ustor {

/// What the supervisor asks of the guard.
struct SetLimits {
    Volts volts;
    Amps amps;
    Volts overVoltage;
    double longestOn_s = 0; ///< longer than that the output is never on at a time; for a timer in the supply
};
struct SwitchOn {};
struct SwitchOff {};
using SupplyCommand = std::variant<SetLimits, SwitchOn, SwitchOff>;

/// Runs a plan against telemetry. Pure: time comes in with each event, commands come out; nothing else
/// happens.
class Supervisor {
  public:
    struct Rules {
        double silence_s = 1.0;
        double cameraSilence_s = 2.0;
        double unseen_s =
            10; ///< longest that pictures come and none is looked at: nobody sees what becomes warm
        double switchesWithin_s = 0.8; ///< longest that an output takes to read as on
        double warmest_k = 40;         ///< highest rise of any spot above the start
        double hottest_c = 80;  ///< highest temperature of any surface: what can still be touched is less
        double jumpShare = 0.5; ///< fall of the current within one pulse that counts as "opened"
    };

    Supervisor(InjectionPlan plan, Rules rules) : m_plan(std::move(plan)), m_rules(rules) {}

    std::vector<SupplyCommand> start(double time_s);
    /// A telemetry line of the supply: output state, volts, amps as read back.
    std::vector<SupplyCommand> telemetry(double time_s, bool output, Volts volts, Amps amps);
    /// A picture came, whatever the time it takes until somebody looks at it.
    void pictureCame(double time_s);
    /// A picture that came then was looked at; the largest rise of a spot since the start, the hottest
    /// surface.
    std::vector<SupplyCommand> frame(double time_s, double warmestRise_k, double hottest_c);
    /// Time goes on; called at least ten times a second.
    std::vector<SupplyCommand> tick(double time_s);
    /// The heat is located; or a person, a lost link: all end with the output off.
    std::vector<SupplyCommand> stop(StopCause cause);

    bool running() const { return m_running; }
    StopCause cause() const { return m_cause; }
    int step() const { return m_step; } ///< index into the plan
    double progress() const;            ///< 0 to 1 over all steps
    const InjectionPlan& plan() const { return m_plan; }

  private:
    std::vector<SupplyCommand> beginStep(double time_s);
    double planSeconds() const;

    InjectionPlan m_plan;
    Rules m_rules;
    bool m_running = false, m_outputWanted = false;
    bool m_outputSeen = false; ///< in this pulse
    StopCause m_cause = StopCause::None;
    int m_step = 0, m_pulse = 0;
    double m_phaseEnds_s = 0, m_start_s = 0, m_now_s = 0;
    double m_lastTelemetry_s = 0, m_lastFrame_s = 0, m_lastLook_s = 0, m_switched_s = 0;
    double m_pulsePeak_a = 0;
};

} // namespace ustor
