#include "session/settling.h"

#include "bench/clock.h"

#include <QCoreApplication>
#include <QElapsedTimer>
#include <QProcess>
#include <QThread>
#include <algorithm>
#include <csignal>
#include <unistd.h>
#include <utility>

namespace ustor {
namespace {

bool lives(qint64 process) {
    return process > 1 && ::kill(static_cast<pid_t>(process), 0) == 0;
}

Message placeOf(const LedgerEntry& entry) {
    return entry.trouble.empty() ? verbatim(entry.supply.place())
                                 : say("{file} ({why})", {{"file", entry.file}, {"why", entry.trouble}});
}

/// A process of its own, which this program's end does not touch.
void settle(const QString& guardProgram, const LedgerEntry& entry) {
    QStringList arguments{"--supply",   entry.supply.text(),
                          "--settle",   QString::number(entry.guard),
                          "--patience", QString::number(entry.patience)};
    if (entry.simulated) arguments << "--simulated";
    QProcess::startDetached(guardProgram, arguments);
}

} // namespace

std::vector<Message> settleAbandoned(const QString& guardProgram) {
    std::vector<Message> found;
    for (const LedgerEntry& entry : OutputLedger::entries()) {
        if (!entry.abandoned()) continue;
        found.push_back(placeOf(entry));
        if (entry.trouble.empty()) settle(guardProgram, entry);
    }
    return found;
}

bool settledSoon() {
    constexpr int patience_ms = 1500, step_ms = 20;
    QElapsedTimer clock;
    for (clock.start(); clock.elapsed() < patience_ms; QThread::msleep(step_ms))
        if (OutputLedger::entries().empty()) return true;
    return false;
}

Settling::Settling(QString guardProgram, std::function<qint64()> ownGuard, QObject* parent)
    : QObject(parent), m_program(std::move(guardProgram)), m_ownGuard(std::move(ownGuard)),
      m_since_s(hostSeconds()) {
    constexpr int every_ms = 250;
    m_timer.setInterval(every_ms);
    connect(&m_timer, &QTimer::timeout, this, &Settling::look);
    m_timer.start();
    look();
}

void Settling::look() {
    std::vector<LedgerEntry> open;
    for (LedgerEntry& entry : OutputLedger::entries()) {
        if (entry.guard == m_ownGuard()) continue;
        if (entry.abandoned() && entry.trouble.empty()) settle(m_program, entry);
        // Another window that lives tells of its own.
        const bool others = entry.window != QCoreApplication::applicationPid() && lives(entry.window);
        if (!others || entry.abandoned()) open.push_back(std::move(entry));
    }
    // A guard of this window that has just been let go needs a moment to read that all is off.
    const double now_s = hostSeconds();
    constexpr double moment_s = 0.8;
    if (open.empty()) m_since_s = now_s;
    if (std::all_of(open.begin(), open.end(), [](const LedgerEntry& e) { return !e.abandoned(); }) &&
        now_s - m_since_s < moment_s)
        open.clear();
    const bool same = std::equal(open.begin(), open.end(), m_open.begin(), m_open.end(),
                                 [](const auto& a, const auto& b) { return a.file == b.file; });
    m_open = std::move(open);
    if (!same) emit changed();
}

Message Settling::words() const {
    std::vector<Message> places;
    for (const LedgerEntry& entry : m_open)
        places.push_back(placeOf(entry));
    return joined(places, ", ");
}

void Settling::switchOff() {
    for (const LedgerEntry& entry : OutputLedger::entries()) {
        if (entry.guard == m_ownGuard()) continue;
        if (entry.abandoned() && entry.trouble.empty())
            settle(m_program, entry);
        else if (lives(entry.guard) && entry.window != 0)
            ::kill(static_cast<pid_t>(entry.guard), SIGTERM); // a guard then switches off until it reads off
    }
    look();
}

void Settling::leadsPulled() {
    for (const LedgerEntry& entry : m_open)
        OutputLedger::strike(entry);
    look();
}

} // namespace ustor
