#pragma once

#include "bench/output_ledger.h"
#include "bench/output_watch.h"

#include <QObject>
#include <QSet>
#include <QTimer>
#include <functional>

namespace ustor {

/// Starts a process for each abandoned output of the ledger that switches it off, however long that takes.
/// Returns what was found, in words for people; empty where nothing may be on.
std::vector<Message> settleAbandoned(const QString& guardProgram);
/// Waits a moment for it, for programs that end soon. False where something may be on still.
bool settledSoon();

/// Deals with what earlier programs left on, and with guards of this one that go on without it. Looks at the
/// ledger again and again.
class Settling : public QObject {
    Q_OBJECT
  public:
    /// `ownGuard`: the process whose output this window tells of itself; 0 while there is none.
    Settling(QString guardProgram, std::function<qint64()> ownGuard, QObject* parent = nullptr);
    /// `Unknown` while the ledger names an output that may be on and that nobody else tells of.
    OutputState state() const { return m_open.empty() ? OutputState::Unreached : OutputState::Unknown; }
    /// Which, in words for people.
    Message words() const;
    /// Every output of the ledger off, whoever is in charge of it.
    void switchOff();
    /// A person says that the leads are off.
    void leadsPulled();

  signals:
    void changed();

  private:
    void look();

    QString m_program;
    std::function<qint64()> m_ownGuard;
    QTimer m_timer;
    std::vector<LedgerEntry> m_open;
    double m_since_s; ///< nothing was open then, or this was made
};

} // namespace ustor
