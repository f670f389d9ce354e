#pragma once

#include <QObject> // first: Qt 6.4's moc cannot read <compare> before it

#include "injection/stop_cause.h"
#include "session/bench_link.h"
#include "session/heat_stream.h"

#include <QTimer>

namespace ustor {

/// The camera over a board that tries to start on its own source, again and again: nothing is injected, and
/// what comes and goes is found from the frames alone.
class FlareRun : public QObject {
    Q_OBJECT
  public:
    struct Settings {
        std::filesystem::path recordingFolder; ///< empty: nothing is recorded
        Side side = Side::Top;
        std::optional<Registration> registration;
        double boardThickness_mm = 1.6;
        double watch_s = 30; ///< some twenty tries of a converter (common practice: one a second or so)
    };
    /// What it ended with.
    struct End {
        StopCause cause = StopCause::None;
        LiveHeat heat;
        std::optional<Error> recordingError;
    };
    FlareRun(BenchLink& bench, Settings settings, QObject* parent = nullptr);

    /// Error when the camera is not there, or the recording cannot be made.
    Outcome start();
    void stop(StopCause cause);
    bool running() const { return m_started && !m_ended; }
    double secondsLeft() const;

  signals:
    void ended();
    void finished(const ustor::FlareRun::End& end);

  private:
    void tick();

    BenchLink& m_bench;
    Settings m_settings;
    std::unique_ptr<HeatStream> m_heat;
    QTimer m_tick;
    double m_end_s = 0, m_lastFrame_s = 0;
    bool m_started = false, m_ended = false;
};

} // namespace ustor
