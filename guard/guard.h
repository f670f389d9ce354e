#pragma once

#include "bench/guard_protocol.h"
#include "bench/scpi_supply.h"

#include <QObject>
#include <QSocketNotifier>
#include <QTimer>

namespace ustor {

/// The guard's rules, apart from the process around them. Input: a file descriptor with lines; output:
/// another.
class Guard : public QObject {
    Q_OBJECT
  public:
    Guard(int inputFd, int outputFd, QObject* parent = nullptr);
    void setPollInterval(int milliseconds) { m_supply.setPollInterval(milliseconds); }
    /// All times of `GuardTiming` times this: for a simulated bench, where a busy machine harms nobody.
    void setPatience(double factor);
    void open(const InstrumentAddress& supply, const InstrumentProfile& profile);
    /// Switches off, waits until the supply says so (or three seconds), then `finished` is emitted.
    void shutDown(const QString& why);

  signals:
    void finished(int exitCode);

  private:
    void readInput();
    void take(const QJsonObject& message);
    void say(const QJsonObject& message);
    void offByItself(const QString& why);
    void watch();
    void tryToEnd();

    int m_input, m_output;
    QSocketNotifier m_notifier;
    QByteArray m_buffer;
    ScpiSupply m_supply;
    QTimer m_watch, m_end;
    double m_lastLine_s, m_lastTelemetry_s = 0, m_shutDownSince_s = 0;
    double m_patience = 1;
    double m_capVolts = 0, m_capAmps = 0; ///< nothing passes before a cap is set
    double m_tripVolts = 0;               ///< the last trip that was asked for
    bool m_outputWanted = false, m_outputSeen = false, m_supplySilent = false, m_ending = false,
         m_silenceTold = false;
};

} // namespace ustor
