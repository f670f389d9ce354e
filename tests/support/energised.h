#pragma once

#include "session/practice/hands.h"
#include "session/practice/standin_process.h"

#include <QProcess>
#include <QTemporaryDir>
#include <optional>
#include <sys/types.h>

namespace ustor::testing {

/// A simulated bench that delivers into a short, energised by a window (played by `ustor-energiser`) through
/// its guard and the guard's second: three processes and a cable that can fail in any combination. A runtime
/// folder of its own, so that its ledger is nobody else's.
class Energised {
  public:
    ~Energised();
    /// Until the output is on and has been for a moment; empty, or what went wrong.
    QString start(const QString& profile = {}, bool serial = false);

    /// What can go wrong, each by name, in an order in which pairs of them make sense.
    static QStringList faults();
    void happen(const QString& fault);
    /// Window, guard and second at once: none sees another die, on a machine that takes its time between two
    /// of these.
    void killAll();
    /// What `happen` broke of the link is mended: there is a way to the supply again.
    void mend();
    /// Milliseconds until the output is off, watched for so long; nothing where it was not.
    std::optional<int> offAfter_ms(int patience_ms = 5000);
    /// It stays off.
    bool staysOff(int milliseconds = 400);
    bool outputOn();

    /// The hands do it; empty where the bench does not answer.
    QJsonObject tell(const QJsonObject& request);
    pid_t windowPid() const { return static_cast<pid_t>(window.processId()); }
    pid_t guardPid() const { return m_guard; } ///< of the beginning
    pid_t secondPid() const { return m_second; }
    QByteArray told(); ///< by the window, all so far
    QString ledger() const { return m_runtime.path() + "/ustor/outputs"; }
    QString runtime() const { return m_runtime.path(); }

    StandInProcess bench;
    Hands hands;
    QProcess window;

  private:
    QTemporaryDir m_runtime;
    QByteArray m_told;
    pid_t m_guard = 0, m_second = 0;
};

/// Ends whoever guards a bench that goes away: they would try to reach it as long as the machine runs.
void endGuardsOf(const InstrumentAddress& supply);

/// The processes that a process started and that live, by name of their program.
QList<pid_t> childrenOf(pid_t process, const QByteArray& program);

} // namespace ustor::testing
