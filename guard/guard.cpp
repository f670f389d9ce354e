#include "guard/guard.h"

#include "bench/clock.h"

#include <QCoreApplication>
#include <QJsonDocument>
#include <algorithm>
#include <unistd.h>
#include <utility>

namespace ustor {
namespace {

/// On the way to the window a sentence is text: the guard knows no language but its own.
QString wire(const Message& message) {
    return QString::fromStdString(message.text());
}

} // namespace

Guard::Guard(int inputFd, int outputFd, Options options, const QStringList& second, QObject* parent)
    : QObject(parent), m_input(inputFd), m_output(outputFd), m_options(std::move(options)),
      m_notifier(inputFd, QSocketNotifier::Read),
      m_ledger(m_options.supply, m_options.simulated, m_options.patience),
      m_off(m_supply, m_ledger, m_options.simulated), m_second(second), m_lastLine_s(hostSeconds()) {
    m_supply.setPollInterval(m_options.poll_ms);
    m_supply.setTimeout(static_cast<int>(GuardTiming::answer_ms * m_options.patience));
    m_state.setPatience({1e-3 * GuardTiming::obeys_ms * m_options.patience,
                         1e-3 * GuardTiming::supplySilence_ms * m_options.patience});
    connect(&m_notifier, &QSocketNotifier::activated, this, &Guard::readInput);
    connect(&m_off, &OffUntilRead::done, this, &Guard::end);
    connect(&m_second, &SecondProcess::failed, this, [this] {
        if (m_state.wanted())
            offByItself(GuardCause::NoSecond, say("the second guard process cannot be kept alive"));
    });
    connectSupply();
    connect(&m_watch, &QTimer::timeout, this, &Guard::watch);
    m_watch.setTimerType(Qt::PreciseTimer);
    m_watch.start(GuardTiming::guardBeat_ms);
}

void Guard::connectSupply() {
    connect(&m_supply, &Supply::connected, this, [this](const QString& identity) {
        m_supplySilent = false;
        m_lastTelemetry_s = hostSeconds();
        tell({{"is", "connected"}, {"identity", identity}});
    });
    connect(&m_supply, &Supply::lost, this, [this](const Message& why) {
        // Its own limits hold meanwhile; when it comes back it is switched off before anything else.
        const bool was = m_state.wanted();
        m_state.lose(hostSeconds());
        if (was) tell({{"is", "off"}, {"cause", wordOf(GuardCause::LinkLost).data()}, {"why", wire(why)}});
        tell({{"is", "lost"}, {"why", wire(why)}});
        if (m_ending && !m_state.mayBeOn()) end();
    });
    connect(&m_supply, &Supply::refused, this, [this](const Message& error) {
        // A limit that was not taken makes the output unsafe.
        refuse(error);
    });
    connect(&m_supply, &ScpiSupply::limitsChanged, this,
            [this](const Message& what) { offByItself(GuardCause::LimitsChanged, what); });
    connect(&m_supply, &Supply::telemetry, this, &Guard::hear);
}

void Guard::open() {
    // Somebody before us may have left it on: that stays known until it was read as off.
    for (const LedgerEntry& entry : OutputLedger::entries())
        if (m_ledger.isFor(entry)) {
            m_stands = m_ledger.stand(QCoreApplication::applicationPid(), m_window);
            m_mayBeOn_s = hostSeconds();
            m_state.doubt();
            tell({{"is", "may be on"}});
        }
    m_supply.open(m_options.supply, m_options.profile);
}

void Guard::tell(const QJsonObject& message) {
    const QByteArray line = guardLine(message);
    // Whoever listens may be gone or stuck: the guard never waits for it (the descriptor does not block).
    const auto written = ::write(m_output, line.constData(), static_cast<std::size_t>(line.size()));
    static_cast<void>(written);
}

void Guard::readInput() {
    char chunk[4096];
    const auto size = ::read(m_input, chunk, sizeof chunk);
    if (size <= 0) {
        m_notifier.setEnabled(false);
        shutDown(GuardCause::WindowGone, say("the window is gone"));
        return;
    }
    m_buffer.append(chunk, size);
    m_lastLine_s = hostSeconds();
    m_silenceTold = false;
    for (auto end = m_buffer.indexOf('\n'); end >= 0; end = m_buffer.indexOf('\n')) {
        const QJsonDocument line = QJsonDocument::fromJson(m_buffer.left(end));
        m_buffer.remove(0, end + 1);
        if (line.isObject())
            take(line.object());
        else
            tell({{"is", "refused"}, {"error", wire(say("not a line of JSON"))}});
    }
}

void Guard::take(const QJsonObject& message) {
    const QString what = message["do"].toString();
    if (what == "beat") return;
    if (what == "off") {
        askOff();
    } else if (what == "quit") {
        shutDown(GuardCause::WindowGone, say("asked to end"));
    } else if (what == "cap") {
        m_capVolts = message["volts"].toDouble(-1);
        m_capAmps = message["amps"].toDouble(-1);
    } else if (what == "limits") {
        takeLimits(message);
    } else if (what == "on") {
        takeOn();
    } else {
        tell({{"is", "refused"}, {"error", wire(say("unknown wish '{what}'", {{"what", what}}))}});
    }
}

void Guard::takeLimits(const QJsonObject& message) {
    const double volts = message["volts"].toDouble(-1), amps = message["amps"].toDouble(-1);
    const double over = message["over_volts"].toDouble(-1);
    constexpr double rounding = 1e-9;
    const bool allowed = volts > 0 && amps > 0 && over >= volts && volts <= m_capVolts + rounding &&
                         amps <= m_capAmps + rounding && over <= m_capVolts + rounding;
    if (!allowed)
        return refuse(
            say("limits {volts} V, {amps} A, trip {trip} V are above the cap of {capVolts} V, {capAmps} A",
                {{"volts", QString::number(volts)},
                 {"amps", QString::number(amps)},
                 {"trip", QString::number(over)},
                 {"capVolts", QString::number(m_capVolts)},
                 {"capAmps", QString::number(m_capAmps)}}));
    if (!m_supply.isConnected()) return refuse(say("no limits can be set: the supply is not connected"));
    m_tripVolts = over;
    m_supply.setLimits(Volts(volts), Amps(amps), Volts(over), message["on_seconds"].toDouble());
}

void Guard::takeOn() {
    if (m_ending || m_capVolts <= 0) return refuse(say("no limits were set before switching on"));
    if (!m_supply.isConnected()) return refuse(say("the supply is not connected"));
    if (!m_second.alive()) return refuse(say("the second guard process is not there"));
    // Before the output comes on: whatever dies from here on, somebody knows.
    // Anew each time: a second that took over meanwhile strikes it out.
    if (!m_ledger.stand(QCoreApplication::applicationPid(), m_window))
        return refuse(say("the ledger of outputs that may be on cannot be written in {folder}",
                          {{"folder", OutputLedger::folder()}}));
    m_stands = true;
    m_second.watch(true);
    m_state.askOn(hostSeconds());
    m_lastTelemetry_s = std::max(m_lastTelemetry_s, hostSeconds());
    m_supply.switchOn();
}

void Guard::refuse(const Message& error) {
    offByItself(GuardCause::SettingRefused, error);
    tell({{"is", "refused"}, {"error", wire(error)}});
}

void Guard::hear(const SupplySample& sample) {
    m_lastTelemetry_s = sample.time_s;
    m_supplySilent = false;
    m_state.read(sample.output, sample.time_s);
    // An output that nobody wants, from a lost "off" or a hand on the front panel.
    if (sample.output && !m_state.wanted()) {
        if (!m_stands) m_stands = m_ledger.stand(QCoreApplication::applicationPid(), m_window);
        m_supply.switchOff();
    }
    m_second.watch(m_state.mayBeOn());
    // A supply may have no trip of its own, or a slow one.
    constexpr double reading = 0.02, reading_v = 0.05;
    if (sample.output && m_tripVolts > 0 && sample.volts > m_tripVolts * (1 + reading) + reading_v)
        offByItself(GuardCause::AboveTrip, say("the supply stands above the trip voltage"));
    tell(telemetryMessage(sample));
}

void Guard::askOff() {
    m_state.askOff(hostSeconds());
    m_supply.switchOff();
}

void Guard::offByItself(GuardCause cause, const Message& why) {
    const bool was = m_state.mayBeOn();
    askOff();
    if (was) tell({{"is", "off"}, {"cause", wordOf(cause).data()}, {"why", wire(why)}});
}

void Guard::watch() {
    const double now_s = hostSeconds();
    tell({{"is", "beat"}}); // the window replaces a guard that hangs
    m_second.beat();
    keepLedger(now_s);
    // Whether it hears or not: one that was deaf for a while obeys as soon as it is not.
    if (m_state.mayBeOn() && !m_state.wanted()) m_supply.switchOff();
    if (!m_silenceTold && now_s - m_lastLine_s > GuardTiming::silence_ms * 1e-3 * m_options.patience) {
        m_silenceTold = true;
        offByItself(GuardCause::WindowSilent, say("the window fell silent"));
    }
    if (m_state.wanted() && !m_supplySilent &&
        now_s - m_lastTelemetry_s > GuardTiming::supplySilence_ms * 1e-3 * m_options.patience) {
        m_supplySilent = true;
        offByItself(GuardCause::SupplySilent,
                    say("the supply stopped answering; its own limits hold until it hears"));
    }
}

/// A run switches on and off again and again: the entry stays over its pauses.
void Guard::keepLedger(double now_s) {
    if (!m_stands) return;
    constexpr double pause_s = 3;
    if (m_state.mayBeOn()) m_mayBeOn_s = now_s;
    if (now_s - m_mayBeOn_s < pause_s) return m_ledger.sign();
    m_ledger.clear();
    m_stands = false;
}

void Guard::shutDown(GuardCause cause, const Message& why) {
    if (m_ending) return;
    offByItself(cause, why);
    m_ending = true;
    // Nothing that was ever on here, and nobody to ask: there is nothing to wait for.
    if (!m_state.mayBeOn() && !m_supply.isConnected()) return end();
    m_off.begin();
}

void Guard::end() {
    if (!m_ending) return;
    if (m_stands) m_ledger.clear();
    m_second.watch(false); // it was read as off, or there was never anything to read
    m_second.quit();
    emit finished();
}

} // namespace ustor
