#include "guard/guard.h"

#include "bench/clock.h"

#include <QJsonDocument>
#include <unistd.h>

namespace ustor {

Guard::Guard(int inputFd, int outputFd, QObject* parent)
    : QObject(parent), m_input(inputFd), m_output(outputFd), m_notifier(inputFd, QSocketNotifier::Read),
      m_lastLine_s(hostSeconds()) {
    connect(&m_notifier, &QSocketNotifier::activated, this, &Guard::readInput);
    connect(&m_supply, &Supply::connected, this, [this](const QString& identity) {
        m_outputWanted = false;
        m_supplySilent = false;
        m_lastTelemetry_s = hostSeconds();
        say({{"is", "connected"}, {"identity", identity}});
    });
    connect(&m_supply, &Supply::lost, this, [this](const QString& why) {
        // Its own limits hold meanwhile; when it comes back it is switched off before anything else.
        m_outputWanted = false;
        say({{"is", "lost"}, {"why", why}});
    });
    connect(&m_supply, &Supply::refused, this, [this](const QString& error) {
        // A limit that was not taken makes the output unsafe.
        offByItself("the supply refused a setting");
        say({{"is", "refused"}, {"error", error}});
    });
    connect(&m_supply, &Supply::telemetry, this, [this](const SupplySample& sample) {
        m_lastTelemetry_s = sample.time_s;
        m_supplySilent = false;
        m_outputSeen = sample.output;
        // An output that nobody wants, from a lost "off" or a hand on the front panel.
        if (sample.output && !m_outputWanted) m_supply.switchOff();
        // A supply may have no trip of its own, or a slow one.
        constexpr double reading = 0.02, reading_v = 0.05;
        if (sample.output && m_tripVolts > 0 && sample.volts > m_tripVolts * (1 + reading) + reading_v)
            offByItself("the supply stands above the trip voltage");
        say(telemetryMessage(sample));
    });
    connect(&m_watch, &QTimer::timeout, this, &Guard::watch);
    connect(&m_end, &QTimer::timeout, this, &Guard::tryToEnd);
    m_watch.start(50);
}

void Guard::setPatience(double factor) {
    m_patience = factor;
    m_supply.setTimeout(static_cast<int>(GuardTiming::answer_ms * factor));
}

void Guard::open(const InstrumentAddress& supply, const InstrumentProfile& profile) {
    m_supply.open(supply, profile);
}

void Guard::say(const QJsonObject& message) {
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
        shutDown("the window is gone");
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
            say({{"is", "refused"}, {"error", "not a line of JSON"}});
    }
}

void Guard::take(const QJsonObject& message) {
    const QString what = message["do"].toString();
    const double volts = message["volts"].toDouble(-1), amps = message["amps"].toDouble(-1);
    if (what == "beat") return;
    if (what == "off") {
        m_outputWanted = false;
        m_supply.switchOff();
    } else if (what == "quit") {
        shutDown("asked to end");
    } else if (what == "cap") {
        m_capVolts = volts;
        m_capAmps = amps;
    } else if (what == "limits") {
        const double over = message["over_volts"].toDouble(-1);
        constexpr double rounding = 1e-9;
        const bool allowed = volts > 0 && amps > 0 && over >= volts && volts <= m_capVolts + rounding &&
                             amps <= m_capAmps + rounding && over <= m_capVolts + rounding;
        if (allowed) m_tripVolts = over;
        if (allowed) return m_supply.setLimits(Volts(volts), Amps(amps), Volts(over));
        offByItself("limits above the cap were asked for");
        say({{"is", "refused"},
             {"error", QString("limits %1 V, %2 A, trip %3 V are above the cap of %4 V, %5 A")
                           .arg(volts)
                           .arg(amps)
                           .arg(over)
                           .arg(m_capVolts)
                           .arg(m_capAmps)}});
    } else if (what == "on") {
        if (m_ending || m_capVolts <= 0)
            return say({{"is", "refused"}, {"error", "no limits were set before switching on"}});
        m_outputWanted = true;
        m_supply.switchOn();
    } else {
        say({{"is", "refused"}, {"error", "unknown wish '" + what + "'"}});
    }
}

void Guard::offByItself(const QString& why) {
    const bool was = m_outputWanted || m_outputSeen;
    m_outputWanted = false;
    m_supply.switchOff();
    if (was) say({{"is", "off"}, {"why", why}});
}

void Guard::watch() {
    const double now = hostSeconds();
    say({{"is", "beat"}}); // the window replaces a guard that hangs
    if (!m_silenceTold && now - m_lastLine_s > GuardTiming::silence_ms * 1e-3 * m_patience) {
        m_silenceTold = true;
        offByItself("the window fell silent");
    }
    if (m_outputWanted && !m_supplySilent &&
        now - m_lastTelemetry_s > GuardTiming::supplySilence_ms * 1e-3 * m_patience) {
        m_supplySilent = true;
        offByItself("the supply stopped answering; its own limits hold until it hears");
    }
}

void Guard::shutDown(const QString& why) {
    if (m_ending) return;
    offByItself(why);
    m_ending = true;
    m_shutDownSince_s = hostSeconds();
    m_end.start(100);
    tryToEnd();
}

void Guard::tryToEnd() {
    constexpr double patience_s = 3;
    m_supply.switchOff();
    if (m_supply.isConnected())
        m_supply.confirmOff([this](bool off) {
            if (off) emit finished(0);
        });
    if (hostSeconds() - m_shutDownSince_s > patience_s) emit finished(1);
}

} // namespace ustor
