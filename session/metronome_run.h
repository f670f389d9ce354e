#pragma once

#include "session/injection_run.h"

namespace ustor {

/// An injection whose supply is switched by hand or foot: beats tell a person when. The output cannot be
/// switched off from here: whatever ends the run asks the person to do it.
class MetronomeRun : public QObject {
    Q_OBJECT
  public:
    struct Settings {
        InjectionRun::Settings injection; ///< of its plan the step at `rung` is set on the supply by hand
        int rung = 0;
        double before_s = 3, on_s = 2, off_s = 2; ///< a hand needs longer pulses than a remote supply
        int pulses = 10;
        Supervisor::Rules rules; ///< of them those for what becomes warm
    };
    MetronomeRun(BenchLink& bench, Settings settings, QObject* parent = nullptr);

    /// Error when the camera is not there, or the recording cannot be made.
    Outcome start();
    void stop(StopCause cause);
    bool running() const { return m_started && !m_ended; }
    /// Ended, and what was recorded is still gone over: the facts so far are in `soFar`.
    bool goesOver() const { return m_ended && !m_told; }
    InjectionOutcome soFar() const;
    /// The last beat asked for the output to be on.
    bool wantsOn() const { return m_on; }
    double secondsToBeat() const;
    const InjectionStep& step() const;

  signals:
    void beat(bool on);
    void live(const ustor::LiveHeat& heat);
    /// No more beats: the output has to be off now. The answer comes when all was gone over.
    void ended();
    void finished(const ustor::InjectionOutcome& outcome);

  private:
    void tick();
    void give(bool on);

    BenchLink& m_bench;
    Settings m_settings;
    std::unique_ptr<HeatStream> m_heat;
    QTimer m_tick;
    double m_start_s = 0, m_next_s = 0, m_lastFrame_s = 0;
    int m_pulse = 0;
    double m_end_s = 0;
    StopCause m_cause = StopCause::None;
    bool m_on = false, m_certain = false, m_started = false, m_ended = false, m_told = false;
};

} // namespace ustor
