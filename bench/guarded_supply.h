#pragma once

#include "base/message.h"
#include "bench/guard_protocol.h"
#include "bench/instrument_address.h"
#include "bench/output_watch.h"
#include "bench/supply.h"

#include <QPointer>
#include <QProcess>
#include <QTimer>

namespace ustor {

/// The window's side of the guard: starts the guard process, tells it that the window lives, passes wishes
/// on. When the guard itself dies, a new one is started, which switches the output off first. The guard
/// outlives this object until it has read the output as off.
class GuardedSupply : public Supply {
    Q_OBJECT
  public:
    /// `program`: path of ustor-guard.
    GuardedSupply(QString program, QObject* parent = nullptr);
    ~GuardedSupply() override;

    struct Options {
        int poll_ms = 40;    ///< how often the guard reads the supply
        double patience = 1; ///< above 1 for simulated benches
        bool simulated =
            false; ///< a program on this machine: nothing is on when nobody listens there any more
    };
    void open(const InstrumentAddress& address, Options options);
    void open(const InstrumentAddress& address) { open(address, Options()); }
    /// No setting above these passes the guard from now on.
    void cap(Volts volts, Amps amps);
    void setLimits(Volts volts, Amps amps, Volts overVoltage, double longestOn_s = 0) override;
    void switchOn() override;
    void switchOff() override;
    bool isConnected() const override { return m_connected; }
    /// What is known of the output, from what was read.
    OutputState outputState() const { return m_state; }
    /// A person says that the leads are off.
    void leadsPulled();
    qint64 guardPid() const { return m_process ? m_process->processId() : 0; }

  signals:
    void switchedOffByGuard(ustor::GuardCause cause, const ustor::Message& why);
    void outputStateChanged(ustor::OutputState state);

  private:
    void launch();
    void tell(const QJsonObject& message);
    void hear();
    void take(const QByteArray& line);
    void watchGuard();
    void guardEnded(int code);
    void judge();

    QString m_program;
    InstrumentAddress m_address;
    Options m_options;
    QPointer<QProcess> m_process;
    QTimer m_beat, m_again;
    OutputWatch m_watch;
    OutputState m_state = OutputState::Unreached;
    bool m_connected = false, m_wanted = false;
    double m_capVolts = 0, m_capAmps = 0;
    double m_heard_s = 0, m_lastBeat_s = 0; ///< of the guard; of our own
    int m_failed = 0;                       ///< guards that ended since one reached the supply
    bool m_heard = false;                   ///< the guard spoke since it was launched
};

} // namespace ustor
