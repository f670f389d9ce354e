#include "bench/guarded_supply.h"

#include "bench/clock.h"

#include <QCoreApplication>
#include <QJsonDocument>
#include <algorithm>
#include <unistd.h>
#include <utility>

namespace ustor {

GuardedSupply::GuardedSupply(QString program, QObject* parent)
    : Supply(parent), m_program(std::move(program)) {
    m_beat.setInterval(GuardTiming::beat_ms);
    m_beat.setTimerType(Qt::PreciseTimer);
    connect(&m_beat, &QTimer::timeout, this, [this] {
        tell({{"do", "beat"}});
        watchGuard();
        judge();
    });
    m_again.setSingleShot(true);
    connect(&m_again, &QTimer::timeout, this, &GuardedSupply::launch);
}

GuardedSupply::~GuardedSupply() {
    m_wanted = false;
    if (!m_process || m_process->state() == QProcess::NotRunning) return;
    m_process->disconnect(this);
    tell({{"do", "quit"}});
    m_process->closeWriteChannel();
    // It switches off and ends when it has read that, however long that takes: a process that is destroyed is
    // killed, so it is let go instead. One that nobody waits for is kept here until it ends or the program
    // does.
    static auto& outliving = *new std::vector<QProcess*>;
    outliving.push_back(m_process);
    connect(m_process, &QProcess::finished, qApp, [process = m_process.data()] {
        std::erase(outliving, process);
        process->deleteLater();
    });
}

void GuardedSupply::open(const InstrumentAddress& address, Options options) {
    m_address = address;
    m_options = options;
    m_watch.setPatience({1e-3 * GuardTiming::obeys_ms * options.patience,
                         1e-3 * GuardTiming::supplySilence_ms * options.patience});
    m_wanted = true;
    launch();
    m_beat.start();
}

void GuardedSupply::launch() {
    m_heard = false;
    m_heard_s = hostSeconds();
    if (m_process) m_process->deleteLater();
    m_process = new QProcess;
    // A session of its own: what is sent to the window's process group does not take the guard along.
    m_process->setChildProcessModifier([] { ::setsid(); });
    m_process->setProcessChannelMode(QProcess::ForwardedErrorChannel);
    connect(m_process, &QProcess::readyReadStandardOutput, this, &GuardedSupply::hear);
    connect(m_process, &QProcess::finished, this, &GuardedSupply::guardEnded);
    connect(m_process, &QProcess::errorOccurred, this, [this](QProcess::ProcessError error) {
        if (error != QProcess::FailedToStart) return;
        m_watch.lose(hostSeconds());
        emit lost(say("the guard cannot be started: {program}", {{"program", m_program}}));
        judge();
    });
    QStringList arguments{"--supply",   m_address.text(),
                          "--poll-ms",  QString::number(m_options.poll_ms),
                          "--patience", QString::number(m_options.patience)};
    if (m_options.simulated) arguments << "--simulated";
    m_process->start(m_program, arguments);
    if (m_capVolts > 0) cap(Volts(m_capVolts), Amps(m_capAmps));
}

void GuardedSupply::guardEnded(int code) {
    m_connected = false;
    m_watch.lose(hostSeconds());
    if (!m_wanted) return;
    constexpr int badCall = 2; // it will not go better the next time
    if (code == badCall && m_process->exitStatus() == QProcess::NormalExit) {
        emit lost(say("the guard did not take the address {address}", {{"address", m_address.text()}}));
        return judge();
    }
    // The first time at once, for the output may be on; one that ends again and again without reaching the
    // supply is no help.
    const int pause_ms = m_failed == 0 ? 0
                                       : std::min(GuardTiming::firstPause_ms << std::min(m_failed, 8),
                                                  GuardTiming::mostRestartPause_ms);
    ++m_failed;
    emit switchedOffByGuard(GuardCause::GuardEnded, say("the guard process ended or hung"));
    emit lost(
        m_failed == 1
            ? say("the guard process ended or hung; a new one switches the output off first")
            : say("the guard process ended {times} times before it reached the supply; it is started again",
                  {{"times", m_failed}}));
    judge();
    m_again.start(pause_ms);
}

/// A guard that hangs holds the supply as it is: it is ended, and the next one switches off first of all.
void GuardedSupply::watchGuard() {
    const double now_s = hostSeconds();
    const bool slept = now_s - std::exchange(m_lastBeat_s, now_s) > 3e-3 * GuardTiming::beat_ms;
    if (slept) m_heard_s = std::max(m_heard_s, now_s - 1e-3 * GuardTiming::beat_ms); // not read yet
    const double silence_s = 1e-3 * (m_heard ? GuardTiming::guardSilence_ms : GuardTiming::guardStart_ms);
    if (m_process && m_process->state() == QProcess::Running &&
        now_s - m_heard_s > silence_s * m_options.patience)
        m_process->kill();
}

void GuardedSupply::tell(const QJsonObject& message) {
    if (m_process && m_process->state() != QProcess::NotRunning) m_process->write(guardLine(message));
}

void GuardedSupply::cap(Volts volts, Amps amps) {
    m_capVolts = volts.value;
    m_capAmps = amps.value;
    tell({{"do", "cap"}, {"volts", volts.value}, {"amps", amps.value}});
}

void GuardedSupply::setLimits(Volts volts, Amps amps, Volts overVoltage, double longestOn_s) {
    tell({{"do", "limits"},
          {"volts", volts.value},
          {"amps", amps.value},
          {"over_volts", overVoltage.value},
          {"on_seconds", longestOn_s}});
}

void GuardedSupply::switchOn() {
    if (!m_connected) return;
    m_watch.askOn(hostSeconds());
    tell({{"do", "on"}});
    judge();
}

void GuardedSupply::switchOff() {
    m_watch.askOff(hostSeconds());
    tell({{"do", "off"}});
    judge();
}

void GuardedSupply::leadsPulled() {
    m_watch.leadsPulled();
    judge();
}

void GuardedSupply::judge() {
    const OutputState state = m_watch.state(hostSeconds());
    if (state == std::exchange(m_state, state)) return;
    emit outputStateChanged(state);
}

/// A bounded number of lines a turn.
void GuardedSupply::hear() {
    constexpr int mostInATurn = 64;
    for (int i = 0; i < mostInATurn && m_process && m_process->canReadLine(); ++i)
        take(m_process->readLine());
    if (m_process && m_process->canReadLine()) QTimer::singleShot(1, this, &GuardedSupply::hear);
}

void GuardedSupply::take(const QByteArray& line) {
    m_heard = true;
    m_heard_s = hostSeconds();
    const QJsonObject j = QJsonDocument::fromJson(line).object();
    const QString is = j["is"].toString();
    if (is == "telemetry") {
        const SupplySample sample = sampleFromTelemetry(j);
        m_watch.read(sample.output, sample.time_s);
        judge();
        emit telemetry(sample);
    } else if (is == "connected") {
        m_connected = true;
        m_failed = 0;
        emit connected(j["identity"].toString());
    } else if (is == "lost") {
        m_connected = false;
        m_watch.lose(m_heard_s);
        judge();
        emit lost(verbatim(j["why"].toString()));
    } else if (is == "refused") {
        m_watch.askOff(m_heard_s);
        judge();
        emit refused(verbatim(j["error"].toString()));
    } else if (is == "off") {
        m_watch.askOff(m_heard_s);
        judge();
        emit switchedOffByGuard(guardCauseFrom(j["cause"].toString().toStdString()),
                                verbatim(j["why"].toString()));
    } else if (is == "may be on") {
        m_watch.doubt();
        judge();
    }
}

} // namespace ustor
