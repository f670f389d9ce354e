#pragma once

#include "bench/instrument_address.h"
#include "bench/supply.h"

#include <QProcess>
#include <QTimer>

namespace ustor {

/// The window's side of the guard: starts the guard process, tells it that the window lives, passes wishes
/// on. When the guard itself dies, a new one is started, which switches the output off first.
class GuardedSupply : public Supply {
    Q_OBJECT
  public:
    /// `program`: path of ustor-guard.
    GuardedSupply(QString program, QObject* parent = nullptr);
    ~GuardedSupply() override;

    /// `poll_ms`: how often the guard reads the supply. `patience` above 1 is for simulated benches.
    void open(const InstrumentAddress& address, int poll_ms = 40, double patience = 1);
    /// No setting above these passes the guard from now on.
    void cap(Volts volts, Amps amps);
    void setLimits(Volts volts, Amps amps, Volts overVoltage) override;
    void switchOn() override;
    void switchOff() override;
    bool isConnected() const override { return m_connected; }
    qint64 guardPid() const { return m_process.processId(); }

  signals:
    void switchedOffByGuard(const QString& why);

  private:
    void launch();
    void tell(const QJsonObject& message);
    void take(const QByteArray& line);
    void watchGuard();

    QString m_program;
    InstrumentAddress m_address;
    int m_poll_ms = 40;
    double m_patience = 1;
    QProcess m_process;
    QTimer m_beat;
    bool m_connected = false, m_wanted = false;
    double m_capVolts = 0, m_capAmps = 0;
    double m_heard_s = 0, m_lastBeat_s = 0; ///< of the guard; of our own
    bool m_heard = false;                   ///< the guard spoke since it was launched
};

} // namespace ustor
