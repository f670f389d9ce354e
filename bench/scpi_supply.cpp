#include "bench/scpi_supply.h"

#include "bench/guard_protocol.h"

#include "bench/clock.h"

namespace ustor {

ScpiSupply::ScpiSupply(QObject* parent) : Supply(parent) {
    m_connection.setTimeout(GuardTiming::answer_ms);
    m_poll.setInterval(40);
    m_poll.setTimerType(Qt::PreciseTimer);
    connect(&m_connection, &ScpiConnection::opened, this, &ScpiSupply::greet);
    connect(&m_connection, &ScpiConnection::lost, this, [this](const QString& why) {
        m_poll.stop();
        emit lost(why);
    });
    connect(&m_poll, &QTimer::timeout, this, &ScpiSupply::poll);
}

void ScpiSupply::open(const SocketAddress& address) {
    m_connection.open(address);
}

void ScpiSupply::greet() {
    m_connection.urgent("OUTP OFF");
    m_connection.urgent("*CLS");
    m_connection.query("*IDN?", [this](const Result<QString>& identity) {
        if (!identity) return;
        m_poll.start();
        emit connected(identity.value());
    });
}

void ScpiSupply::poll() {
    // A slow instrument sets the pace: nothing piles up.
    if (m_connection.waiting() > 0) return;
    m_connection.query("OUTP?", [this](const Result<QString>& r) {
        if (r) m_sample.output = r.value() == "1" || r.value() == "ON";
    });
    m_connection.query("MEAS:VOLT?", [this](const Result<QString>& r) {
        if (r) m_sample.volts = r.value().toDouble();
    });
    m_connection.query("MEAS:CURR?", [this](const Result<QString>& r) {
        if (!r) return;
        bool number = false;
        m_sample.amps = r.value().toDouble(&number);
        m_sample.time_s = hostSeconds();
        if (number) emit telemetry(m_sample);
    });
}

void ScpiSupply::checked(const QString& command) {
    m_connection.set(command, [this, command](const Result<QString>& r) {
        if (!r)
            emit refused(command + ": " + QString::fromStdString(r.error().text()));
        else if (!r.value().isEmpty())
            emit refused(command + ": " + r.value());
    });
}

void ScpiSupply::setLimits(Volts volts, Amps amps, Volts overVoltage) {
    m_sample.setVolts = volts.value;
    m_sample.setAmps = amps.value;
    const auto text = [](double v) { return QString::number(v, 'f', 4); };
    checked("VOLT:PROT " + text(overVoltage.value));
    checked("CURR " + text(amps.value));
    checked("VOLT " + text(volts.value));
}

void ScpiSupply::switchOn() {
    checked("OUTP ON");
}

void ScpiSupply::switchOff() {
    m_connection.urgent("OUTP OFF");
}

void ScpiSupply::confirmOff(std::function<void(bool)> answer) {
    m_connection.query("OUTP?", [answer = std::move(answer)](const Result<QString>& r) {
        answer(r.ok() && (r.value() == "0" || r.value() == "OFF"));
    });
}

} // namespace ustor
