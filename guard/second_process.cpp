#include "guard/second_process.h"
#include "base/input_bounds.h"

#include "bench/guard_protocol.h"

#include <algorithm>
#include <unistd.h>
#include <utility>

namespace ustor {

SecondProcess::SecondProcess(QStringList command, QObject* parent)
    : QObject(parent), m_command(std::move(command)) {
    m_again.setSingleShot(true);
    m_lived.setSingleShot(true);
    connect(&m_again, &QTimer::timeout, this, &SecondProcess::start);
    connect(&m_lived, &QTimer::timeout, this, [this] { m_failed = 0; });
    if (!m_command.isEmpty()) start();
}

SecondProcess::~SecondProcess() {
    // Only after the output was read as off: then nothing is left to watch.
    if (!m_process) return;
    m_process->disconnect(this);
    m_process->closeWriteChannel();
    constexpr int patience_ms = 300; // one that is stopped is ended
    if (!m_process->waitForFinished(patience_ms)) {
        m_process->kill();
        m_process->waitForFinished(patience_ms);
    }
    delete m_process;
}

bool SecondProcess::alive() const {
    return m_command.isEmpty() || (m_process && m_process->state() != QProcess::NotRunning);
}

void SecondProcess::start() {
    if (m_process) m_process->deleteLater();
    m_process = new QProcess;
    m_process->setChildProcessModifier([] { ::setsid(); });
    m_process->setProcessChannelMode(QProcess::ForwardedErrorChannel);
    m_process->setStandardOutputFile(QProcess::nullDevice());
    const auto ended = [this] {
        m_lived.stop();
        if (m_quits) return;
        constexpr int most = 3;
        if (++m_failed >= most) emit failed();
        m_again.start(m_failed == 1 ? 0
                                    : std::min(GuardTiming::firstPause_ms << std::min(m_failed, 8),
                                               GuardTiming::mostRestartPause_ms));
    };
    connect(m_process, &QProcess::finished, this, ended);
    connect(m_process, &QProcess::errorOccurred, this, [ended](QProcess::ProcessError error) {
        if (error == QProcess::FailedToStart) ended();
    });
    m_process->start(m_command.front(), m_command.mid(1));
    constexpr int lives_ms = 2000;
    m_lived.start(lives_ms);
    m_told = false;
    watch(m_watches);
}

void SecondProcess::tell(const QJsonObject& message) {
    if (m_process && m_process->state() != QProcess::NotRunning) m_process->write(guardLine(message));
}

void SecondProcess::beat() {
    // One that is stopped does not read: what waits for it must not grow without end.
    if (m_process && m_process->bytesToWrite() < bounds::unheard_bytes) tell({{"do", "beat"}});
}

void SecondProcess::watch(bool outputMayBeOn) {
    if (m_watches == outputMayBeOn && m_told) return;
    m_watches = outputMayBeOn;
    m_told = true;
    tell({{"do", "watch"}, {"on", outputMayBeOn}});
}

void SecondProcess::quit() {
    m_quits = true;
    tell({{"do", "quit"}});
}

} // namespace ustor
