#pragma once

#include "guard/guard.h"

namespace ustor {

/// The second: hears the guard's beats, and when they end while the output may be on, ends a guard that hangs
/// and switches off itself. Its own connection is made only then: many supplies take one at a time.
class Second : public QObject {
    Q_OBJECT
  public:
    /// `inputFd`: the guard's lines. `guard`: its process.
    Second(int inputFd, Guard::Options options, qint64 guard, QObject* parent = nullptr);

  signals:
    void finished();

  private:
    void readInput();
    void watch();
    void takeOver();

    int m_input;
    Guard::Options m_options;
    qint64 m_guard;
    QSocketNotifier m_notifier;
    QByteArray m_buffer;
    ScpiSupply m_supply;
    OutputLedger m_ledger;
    OffUntilRead m_off;
    QTimer m_watch;
    double m_lastLine_s, m_lastWatch_s;
    bool m_watches = false;
};

/// Whether that process is a guard: an id may have gone to another program meanwhile.
bool isGuard(qint64 process);

} // namespace ustor
