#include "bench/guarded_supply.h"

#include "bench/clock.h"
#include "bench/guard_protocol.h"

#include <QJsonDocument>
#include <unistd.h>
#include <utility>

namespace ustor {

GuardedSupply::GuardedSupply(QString program, QObject* parent)
    : Supply(parent), m_program(std::move(program)) {
    // A session of its own: what is sent to the window's process group does not take the guard along.
    m_process.setChildProcessModifier([] { ::setsid(); });
    m_process.setProcessChannelMode(QProcess::ForwardedErrorChannel);
    m_beat.setInterval(GuardTiming::beat_ms);
    connect(&m_beat, &QTimer::timeout, this, [this] {
        tell({{"do", "beat"}});
        watchGuard();
    });
    connect(&m_process, &QProcess::readyReadStandardOutput, this, [this] {
        while (m_process.canReadLine())
            take(m_process.readLine());
    });
    connect(&m_process, &QProcess::finished, this, [this](int code) {
        m_connected = false;
        if (!m_wanted) return;
        constexpr int badCall = 2; // it will not go better the next time
        if (code == badCall) {
            emit lost("the guard did not take the address " + m_address.text());
            return;
        }
        emit lost("the guard process ended or hung; a new one switches the output off first");
        launch();
    });
    connect(&m_process, &QProcess::errorOccurred, this, [this](QProcess::ProcessError error) {
        if (error == QProcess::FailedToStart) emit lost("the guard cannot be started: " + m_program);
    });
}

GuardedSupply::~GuardedSupply() {
    m_wanted = false;
    if (m_process.state() == QProcess::NotRunning) return;
    const QSignalBlocker quiet(m_process);
    tell({{"do", "quit"}});
    m_process.closeWriteChannel();
    // The guard switches off at once when its input ends; it is given the time to say so, and never killed.
    constexpr int patience_ms = 2500;
    m_process.waitForFinished(patience_ms);
}

void GuardedSupply::open(const InstrumentAddress& address, int poll_ms, double patience) {
    m_address = address;
    m_poll_ms = poll_ms;
    m_patience = patience;
    m_wanted = true;
    launch();
    m_beat.start();
}

void GuardedSupply::launch() {
    m_heard = false;
    m_heard_s = hostSeconds();
    m_process.start(m_program, {"--supply", m_address.text(), "--poll-ms", QString::number(m_poll_ms),
                                "--patience", QString::number(m_patience)});
    if (m_capVolts > 0) cap(Volts(m_capVolts), Amps(m_capAmps));
}

/// A guard that hangs holds the supply as it is: it is ended, and the next one switches off first of all.
void GuardedSupply::watchGuard() {
    const double now_s = hostSeconds();
    const bool slept = now_s - std::exchange(m_lastBeat_s, now_s) > 3e-3 * GuardTiming::beat_ms;
    if (slept) m_heard_s = now_s; // what it said meanwhile was not read yet
    const double silence_s = 1e-3 * (m_heard ? GuardTiming::guardSilence_ms : GuardTiming::guardStart_ms);
    if (m_process.state() == QProcess::Running && now_s - m_heard_s > silence_s * m_patience)
        m_process.kill();
}

void GuardedSupply::tell(const QJsonObject& message) {
    if (m_process.state() != QProcess::NotRunning) m_process.write(guardLine(message));
}

void GuardedSupply::cap(Volts volts, Amps amps) {
    m_capVolts = volts.value;
    m_capAmps = amps.value;
    tell({{"do", "cap"}, {"volts", volts.value}, {"amps", amps.value}});
}

void GuardedSupply::setLimits(Volts volts, Amps amps, Volts overVoltage) {
    tell({{"do", "limits"}, {"volts", volts.value}, {"amps", amps.value}, {"over_volts", overVoltage.value}});
}

void GuardedSupply::switchOn() {
    tell({{"do", "on"}});
}

void GuardedSupply::switchOff() {
    tell({{"do", "off"}});
}

void GuardedSupply::take(const QByteArray& line) {
    m_heard = true;
    m_heard_s = hostSeconds();
    const QJsonObject j = QJsonDocument::fromJson(line).object();
    const QString is = j["is"].toString();
    if (is == "telemetry")
        emit telemetry(sampleFromTelemetry(j));
    else if (is == "connected") {
        m_connected = true;
        emit connected(j["identity"].toString());
    } else if (is == "lost") {
        m_connected = false;
        emit lost(j["why"].toString());
    } else if (is == "refused")
        emit refused(j["error"].toString());
    else if (is == "off")
        emit switchedOffByGuard(j["why"].toString());
}

} // namespace ustor
