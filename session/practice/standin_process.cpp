#include "session/practice/standin_process.h"

#include <csignal>
#include <sys/prctl.h>

namespace ustor {

StandInProcess::~StandInProcess() {
    if (m_process.state() == QProcess::NotRunning) return;
    m_process.terminate();
    constexpr int patience_ms = 1000;
    if (!m_process.waitForFinished(patience_ms)) {
        m_process.kill();
        m_process.waitForFinished(patience_ms);
    }
}

Outcome StandInProcess::start(const QString& program, const QStringList& arguments) {
    m_process.setProcessChannelMode(QProcess::SeparateChannels);
    // A simulated bench nobody practises on any more must not stay behind.
    m_process.setChildProcessModifier([] { ::prctl(PR_SET_PDEATHSIG, SIGTERM); });
    m_process.start(program, arguments);
    constexpr int patience_ms = 10000;
    while (!m_process.canReadLine())
        if (!m_process.waitForReadyRead(patience_ms)) {
            const std::string said = m_process.readAllStandardError().trimmed().toStdString();
            return Error{said.empty() ? "the simulated bench did not start" : said, program.toStdString(),
                         ""};
        }
    const auto address = benchFromReadyLine(m_process.readLine());
    if (!address) return address.error();
    m_address = address.value();
    return Done{};
}

} // namespace ustor
