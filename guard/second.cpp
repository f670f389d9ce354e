#include "guard/second.h"

#include "bench/clock.h"

#include <QFile>
#include <QJsonDocument>
#include <csignal>
#include <unistd.h>
#include <utility>

namespace ustor {

bool isGuard(qint64 process) {
    QFile name(QString("/proc/%1/comm").arg(process));
    return process > 1 && name.open(QIODevice::ReadOnly) && name.readAll().trimmed() == "ustor-guard";
}

Second::Second(int inputFd, Guard::Options options, qint64 guard, QObject* parent)
    : QObject(parent), m_input(inputFd), m_options(std::move(options)), m_guard(guard),
      m_notifier(inputFd, QSocketNotifier::Read),
      m_ledger(m_options.supply, m_options.simulated, m_options.patience),
      m_off(m_supply, m_ledger, m_options.simulated), m_lastLine_s(hostSeconds()),
      m_lastWatch_s(m_lastLine_s) {
    m_supply.setTimeout(static_cast<int>(GuardTiming::answer_ms * m_options.patience));
    connect(&m_notifier, &QSocketNotifier::activated, this, &Second::readInput);
    connect(&m_off, &OffUntilRead::done, this, &Second::finished);
    connect(&m_watch, &QTimer::timeout, this, &Second::watch);
    m_watch.setTimerType(Qt::PreciseTimer);
    m_watch.start(GuardTiming::guardBeat_ms);
}

void Second::readInput() {
    char chunk[4096];
    const auto size = ::read(m_input, chunk, sizeof chunk);
    if (size <= 0) {
        m_notifier.setEnabled(false);
        if (m_watches) return takeOver();
        m_ledger.clear(); // it was read as off
        return emit finished();
    }
    m_lastLine_s = hostSeconds();
    m_buffer.append(chunk, size);
    for (auto end = m_buffer.indexOf('\n'); end >= 0; end = m_buffer.indexOf('\n')) {
        const QJsonObject line = QJsonDocument::fromJson(m_buffer.left(end)).object();
        m_buffer.remove(0, end + 1);
        if (line["do"] == "watch") m_watches = line["on"].toBool();
        if (line["do"] == "quit") return emit finished();
    }
}

void Second::watch() {
    const double now_s = hostSeconds();
    // After a sleep of this process itself the guard's lines have not been read yet.
    const bool slept = now_s - std::exchange(m_lastWatch_s, now_s) > 4e-3 * GuardTiming::guardBeat_ms;
    if (slept || !m_watches || m_off.begun()) return;
    if (now_s - m_lastLine_s > 1e-3 * GuardTiming::guardSilence_ms * m_options.patience) takeOver();
}

void Second::takeOver() {
    if (m_off.begun()) return;
    m_notifier.setEnabled(false);
    // A guard that hangs holds the connection.
    if (isGuard(m_guard)) ::kill(static_cast<pid_t>(m_guard), SIGKILL);
    m_ledger.stand(::getpid(), 0);
    m_supply.open(m_options.supply, m_options.profile);
    m_off.begin();
}

} // namespace ustor
