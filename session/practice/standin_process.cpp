#include "session/practice/standin_process.h"

#include <csignal>
#include <memory>
#include <sys/prctl.h>
#include <utility>

namespace ustor {

StandInProcess::~StandInProcess() {
    m_process.disconnect(); // its end is no failure any more
    if (m_process.state() == QProcess::NotRunning) return;
    m_process.terminate();
    constexpr int patience_ms = 1000;
    if (!m_process.waitForFinished(patience_ms)) {
        m_process.kill();
        m_process.waitForFinished(patience_ms);
    }
}

void StandInProcess::launch(const QString& program, const QStringList& arguments) {
    m_process.setProcessChannelMode(QProcess::SeparateChannels);
    // A simulated bench nobody practises on any more must not stay behind.
    m_process.setChildProcessModifier([] { ::prctl(PR_SET_PDEATHSIG, SIGTERM); });
    m_process.start(program, arguments);
}

Outcome StandInProcess::readReadyLine() {
    m_readyLine = m_process.readLine().trimmed();
    const auto address = benchFromReadyLine(m_readyLine);
    if (!address) return address.error();
    m_address = address.value();
    return Done{};
}

Error StandInProcess::failure() {
    const std::string said = m_process.readAllStandardError().trimmed().toStdString();
    return {said.empty() ? say("the simulated bench did not start") : verbatim(said),
            m_process.program().toStdString(),
            {}};
}

void StandInProcess::start(const QString& program, const QStringList& arguments,
                           std::function<void(const Outcome&)> ready) {
    const auto once = std::make_shared<std::function<void(const Outcome&)>>(std::move(ready));
    const auto tell = [once](const Outcome& outcome) {
        if (const auto then = std::exchange(*once, nullptr)) then(outcome);
    };
    QObject::connect(&m_process, &QProcess::readyReadStandardOutput, &m_process, [this, once, tell] {
        if (*once && m_process.canReadLine()) tell(readReadyLine());
    });
    QObject::connect(&m_process, &QProcess::finished, &m_process, [this, tell] { tell(failure()); });
    QObject::connect(&m_process, &QProcess::errorOccurred, &m_process, [this, tell] { tell(failure()); });
    launch(program, arguments);
}

Outcome StandInProcess::start(const QString& program, const QStringList& arguments) {
    launch(program, arguments);
    constexpr int patience_ms = 10000;
    while (!m_process.canReadLine())
        if (!m_process.waitForReadyRead(patience_ms)) return failure();
    return readReadyLine();
}

} // namespace ustor
