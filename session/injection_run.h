#pragma once

#include <QObject> // first: Qt 6.4's moc cannot read <compare> before it

#include "injection/newest_pulse.h"
#include "injection/supervisor.h"
#include "session/bench_link.h"
#include "session/heat_stream.h"

#include <QTimer>

namespace ustor {

/// What a run ended with.
struct InjectionOutcome {
    StopCause cause = StopCause::None;
    Message why; ///< what guard or supply said of the cause; empty where nothing more is known
    LiveHeat heat;
    double volts = 0, amps = 0;              ///< as set at the last step
    double deliveredWatts = 0;               ///< mean while on
    std::optional<NewestPulse::Shown> shown; ///< by the supply, in the newest pulse that settled
    double seconds = 0;
    bool byHand = false; ///< the supply was switched by a person and told nothing
    std::optional<Error> recordingError;
};

/// One injection: the supervisor against the guarded supply, frames and power into a stream of heat, live
/// results out. Whatever happens, it ends with the output off.
class InjectionRun : public QObject {
    Q_OBJECT
  public:
    struct Settings {
        InjectionPlan plan;
        std::filesystem::path recordingFolder; ///< empty: nothing is recorded
        Side side = Side::Top;
        std::optional<Registration> registration;
        double boardThickness_mm = 1.6;
        bool stopWhenCertain = true;
    };
    InjectionRun(BenchLink& bench, Settings settings, QObject* parent = nullptr);
    ~InjectionRun() override;

    /// Error when supply or camera are not there, or the recording cannot be made; nothing is switched on
    /// then.
    Outcome start();
    void stop(StopCause cause);
    bool running() const { return m_supervisor.running(); }
    double progress() const { return m_supervisor.progress(); }
    int step() const { return m_supervisor.step(); }
    /// Ended, and what was recorded is still gone over: the facts so far are in `soFar`.
    bool goesOver() const { return m_ended && !m_told; }
    InjectionOutcome soFar() const;
    const InjectionPlan& plan() const { return m_settings.plan; }

  signals:
    void live(const ustor::LiveHeat& heat);
    /// "Off" was asked for; what was recorded is gone over as a whole now.
    void ended();
    void finished(const ustor::InjectionOutcome& outcome);

  private:
    void carryOut(const std::vector<SupplyCommand>& commands);
    void take(const LiveHeat& heat);
    void end();
    void tell(const HeatStream::End& end);

    BenchLink& m_bench;
    Settings m_settings;
    Supervisor m_supervisor;
    std::unique_ptr<HeatStream> m_heat;
    QTimer m_tick;
    double m_start_s = 0, m_end_s = 0;
    Message m_why;
    double m_onWatts = 0; ///< sum of the samples in which power was delivered
    int m_onSamples = 0;
    NewestPulse m_pulse;
    bool m_certain = false; ///< at the last look
    bool m_started = false, m_ended = false, m_told = false;
};

} // namespace ustor
