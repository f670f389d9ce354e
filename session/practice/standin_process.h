#pragma once

#include "base/result.h"
#include "bench/instrument_address.h"

#include <QProcess>
#include <QStringList>
#include <functional>

namespace ustor {

/// A busy machine must not end a practice: nothing real hangs on a simulated bench.
inline constexpr double patienceInPractice = 5;

/// A simulated bench that was started for practice and ends with this object.
class StandInProcess {
  public:
    ~StandInProcess();
    /// Starts `program`; `ready` is called once, when it has printed its ready line or failed.
    void start(const QString& program, const QStringList& arguments,
               std::function<void(const Outcome&)> ready);
    /// Starts it and waits (some ten seconds at most); for walks and tests.
    Outcome start(const QString& program, const QStringList& arguments);
    const BenchAddress& address() const { return m_address; }
    /// The line it printed, for another program that works on the same bench.
    const QByteArray& readyLine() const { return m_readyLine; }
    QProcess& process() { return m_process; }

  private:
    QProcess m_process;
    void launch(const QString& program, const QStringList& arguments);
    Outcome readReadyLine();
    Error failure();

    QByteArray m_readyLine;
    BenchAddress m_address;
};

} // namespace ustor
