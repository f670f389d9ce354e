#pragma once

#include <QObject> // first: Qt 6.4's moc cannot read <compare> before it

#include "injection/supervisor.h"
#include "session/bench_link.h"
#include "session/heat_worker.h"

#include <QThread>
#include <QTimer>
#include <functional>

namespace ustor {

/// What a run ended with.
struct InjectionOutcome {
    StopCause cause = StopCause::None;
    LiveHeat heat;
    double volts = 0, amps = 0; ///< as set at the last step
    double deliveredWatts = 0;  ///< mean while on
    double seconds = 0;
    std::optional<Error> recordingError;
};

/// One injection: the supervisor against the guarded supply, frames and power into a worker thread, live
/// results out. Where the heat comes from is thought about in one more thread, so that a long thought never
/// looks like a silent camera. Whatever happens, it ends with the output off.
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
    const InjectionPlan& plan() const { return m_settings.plan; }

  signals:
    void live(const ustor::LiveHeat& heat);
    void finished(const ustor::InjectionOutcome& outcome);

  private:
    void carryOut(const std::vector<SupplyCommand>& commands);
    void askWorker();
    void think(std::function<void(LiveHeat)> then);
    void take(const LiveHeat& heat);
    void end();
    void tell(InjectionOutcome outcome);

    BenchLink& m_bench;
    Settings m_settings;
    Supervisor m_supervisor;
    QThread m_thread, m_thoughts;
    QObject m_inThread, m_inThoughts; ///< live in the threads: work is posted to them
    std::unique_ptr<HeatWorker> m_worker;
    QTimer m_tick, m_look;
    double m_start_s = 0, m_certainSince_s = -1;
    double m_lookSince_s = 0;
    int m_lookEvery_ms = 1000;
    bool m_lookPending = false, m_started = false, m_ended = false;
    LiveHeat m_last;
};

} // namespace ustor
