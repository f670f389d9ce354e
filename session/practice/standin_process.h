#pragma once

#include "base/result.h"
#include "bench/bench_address.h"

#include <QProcess>
#include <QStringList>

namespace ustor {

/// A simulated bench that was started for practice and ends with this object.
class StandInProcess {
  public:
    ~StandInProcess();
    /// Starts `program` and waits for its ready line (some ten seconds at most).
    Outcome start(const QString& program, const QStringList& arguments);
    const BenchAddress& address() const { return m_address; }
    QProcess& process() { return m_process; }

  private:
    QProcess m_process;
    BenchAddress m_address;
};

} // namespace ustor
