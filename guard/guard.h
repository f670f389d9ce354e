#pragma once

#include "bench/guard_protocol.h"
#include "bench/output_watch.h"
#include "guard/off_until_read.h"
#include "guard/second_process.h"

#include <QObject>
#include <QSocketNotifier>
#include <QTimer>
#include <unistd.h>

namespace ustor {

/// The guard's rules, apart from the process around them. Input: a file descriptor with lines; output:
/// another.
class Guard : public QObject {
    Q_OBJECT
  public:
    struct Options {
        InstrumentAddress supply;
        InstrumentProfile profile;
        int poll_ms = 40;
        /// All times of `GuardTiming` times this: for a simulated bench, where a busy machine harms nobody.
        double patience = 1;
        bool simulated = false;
    };
    /// `second`: the program that takes over when this one dies, with its arguments; none: no second.
    Guard(int inputFd, int outputFd, Options options, const QStringList& second, QObject* parent = nullptr);
    void open();
    /// Switches off and goes on trying until the supply was read as off; then `finished` is emitted.
    void shutDown(GuardCause cause, const Message& why);

  signals:
    void finished();

  private:
    void connectSupply();
    void readInput();
    void take(const QJsonObject& message);
    void takeLimits(const QJsonObject& message);
    void takeOn();
    void tell(const QJsonObject& message);
    void refuse(const Message& error);
    void hear(const SupplySample& sample);
    void askOff();
    void offByItself(GuardCause cause, const Message& why);
    void watch();
    void keepLedger(double now_s);
    void end();

    int m_input, m_output;
    Options m_options;
    QSocketNotifier m_notifier;
    QByteArray m_buffer;
    ScpiSupply m_supply;
    OutputLedger m_ledger;
    OffUntilRead m_off;
    SecondProcess m_second;
    OutputWatch m_state;
    QTimer m_watch;
    double m_lastLine_s, m_lastTelemetry_s = 0;
    double m_mayBeOn_s = 0;               ///< last time that it was not known to be off
    double m_capVolts = 0, m_capAmps = 0; ///< nothing passes before a cap is set
    double m_tripVolts = 0;               ///< the last trip that was asked for
    qint64 m_window = ::getppid();        ///< the process that started this one
    bool m_stands = false;                ///< in the ledger
    bool m_supplySilent = false, m_ending = false, m_silenceTold = false;
};

} // namespace ustor
