#pragma once

#include <QObject> // first: Qt 6.4's moc cannot read <compare> before it

#include "session/heat_worker.h"

#include <QThread>
#include <QTimer>
#include <atomic>
#include <functional>

namespace ustor {

/// The heat of a running injection in threads of its own: one takes the stream, one thinks, so that a long
/// thought never looks like a silent camera. Results come back in the thread that this object lives in.
class HeatStream : public QObject {
    Q_OBJECT
  public:
    struct Settings {
        CameraInfo info;
        std::filesystem::path recordingFolder; ///< empty: nothing is recorded
        std::optional<Registration> registration;
        double boardThickness_mm = 1.6;
        double speed = 1; ///< of the bench's time
    };
    explicit HeatStream(Settings settings, QObject* parent = nullptr);
    ~HeatStream() override;

    /// Error when the recording cannot be made.
    Outcome start();
    void add(const SupplySample& sample);
    void add(const Beat& beat);
    /// `arrived_s` comes back with `warmest`. A frame is left out, and counted, where too many wait already.
    void add(const ThermalFrame& frame, double arrived_s);
    /// Frames that were left out before they came here.
    void skip(int frames) { m_skipped += frames; }
    int skipped() const { return m_skipped; }

    struct End {
        LiveHeat heat;
        std::optional<Error> recordingError;
    };
    /// Works off what waits, thinks once more about all of it. No `live` comes after this was called.
    void finish(std::function<void(const End&)> then);

  signals:
    void live(const ustor::LiveHeat& heat);
    /// A frame was worked on.
    void warmest(double arrived_s, const ustor::Warmest& spot);

  private:
    void ask();
    void tellSkipped(LiveHeat& heat) const;
    void think(std::function<void(const HeatSoFar&)> then);

    Settings m_settings;
    QThread m_thread, m_thoughts;
    QObject m_inThread, m_inThoughts; ///< live in the threads: work is posted to them
    std::unique_ptr<HeatWorker> m_worker;
    std::atomic<int> m_waiting = 0; ///< frames on their way to the worker
    int m_skipped = 0;
    QTimer m_look;
    double m_lookSince_s = 0;
    int m_lookEvery_ms = 1000;
    bool m_pending = false, m_ended = false;
};

} // namespace ustor
