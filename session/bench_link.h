#pragma once

#include "bench/camera.h"
#include "bench/guarded_supply.h"
#include "bench/scpi_meter.h"
#include "session/clock_match.h"
#include "thermal/recording.h"

#include <memory>
#include <optional>

namespace ustor {

/// The instruments of one bench, connected. All times that leave here are seconds of bench time on the host's
/// clock.
class BenchLink : public QObject {
    Q_OBJECT
  public:
    /// `guardProgram`: path of ustor-guard.
    explicit BenchLink(const QString& guardProgram, QObject* parent = nullptr);
    /// What cannot be opened is told as trouble; the rest is opened.
    void open(const BenchAddress& address);

    GuardedSupply& supply() { return m_supply; }
    Meter& meter() { return m_meter; }
    Camera& camera() { return *m_camera; }
    const Camera& camera() const { return *m_camera; }
    const BenchAddress& address() const { return m_address; }
    bool isOpen() const { return m_open; }
    double benchSeconds() const;
    const std::optional<SupplySample>& lastSample() const { return m_last; }
    bool outputOn() const { return m_last && m_last->output; } ///< when last read
    /// What is known of the supply's output, from what was read.
    OutputState outputState() const { return m_supply.outputState(); }

  signals:
    void sample(const ustor::SupplySample& sample);
    void frame(const ustor::ThermalFrame& frame);
    /// Pictures that came and were left out, because newer ones waited behind them.
    void framesSkipped(int frames);
    void stateChanged();
    void cameraLost(const ustor::Message& why);
    void trouble(const ustor::Message& what);

  private:
    void openCamera();
    void tell(const Message& what);

    BenchAddress m_address;
    GuardedSupply m_supply;
    ScpiMeter m_meter;
    std::unique_ptr<Camera> m_camera; ///< one that is nowhere until the bench is opened
    ClockMatch m_cameraClock;
    double m_lastStamp_s = -1; ///< of the camera's own clock
    std::optional<SupplySample> m_last;
    bool m_open = false;
};

/// Path of a program that was built beside this one.
QString programBeside(const QString& name);

} // namespace ustor
