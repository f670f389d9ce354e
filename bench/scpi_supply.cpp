#include "bench/scpi_supply.h"

#include "base/number_text.h"
#include "bench/clock.h"
#include "bench/guard_protocol.h"

#include <cmath>

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

void ScpiSupply::open(const InstrumentAddress& address, const InstrumentProfile& profile) {
    m_channel = address.channel;
    m_connection.open(address, profile);
}

QString ScpiSupply::filled(QString command, double value) const {
    const QString number = QString::number(value, 'f', 4);
    return command.replace("{channel}", QString::number(m_channel))
        .replace("{volts}", number)
        .replace("{amps}", number);
}

/// Before every group of commands: a hand on the front panel may have chosen another channel.
void ScpiSupply::select() {
    if (const QString& command = m_connection.profile().select; !command.isEmpty())
        m_connection.tell(filled(command));
}

void ScpiSupply::greet() {
    switchOff();
    const InstrumentProfile& profile = m_connection.profile();
    if (!profile.clear.isEmpty()) m_connection.urgent(profile.clear);
    m_connection.query(profile.identity, [this](const Result<QString>& identity) {
        if (!identity) return;
        m_poll.start();
        emit connected(identity.value());
    });
}

void ScpiSupply::poll() {
    // A slow instrument sets the pace: nothing piles up.
    if (m_connection.waiting() > 0) return;
    const InstrumentProfile& profile = m_connection.profile();
    select();
    m_ampsRead = false;
    m_connection.query(filled(profile.readVolts), [this](const Result<QString>& r) {
        if (!r) return;
        if (const auto volts = numberFromText(r.value().toStdString())) m_sample.volts = *volts;
    });
    m_connection.query(filled(profile.readAmps), [this](const Result<QString>& r) {
        if (!r) return;
        const auto amps = numberFromText(r.value().toStdString());
        if (!amps) return;
        m_sample.amps = *amps;
        m_sample.time_s = hostSeconds();
        m_ampsRead = true;
    });
    // Asked last: an output that went off meanwhile must not pass for a current that fell.
    m_connection.query(filled(profile.askOutput), [this](const Result<QString>& r) {
        if (r) m_sample.output = m_connection.profile().onWords.contains(r.value());
        if (m_ampsRead) emit telemetry(m_sample);
    });
}

void ScpiSupply::checked(const QString& command, const QString& ask, double wanted) {
    m_connection.set(command, [this, command](const Result<QString>& r) {
        if (!r)
            emit refused(command + ": " + QString::fromStdString(r.error().text()));
        else if (!r.value().isEmpty())
            emit refused(command + ": " + r.value());
    });
    if (!ask.isEmpty()) compare(command, filled(ask), wanted);
}

/// Less than was asked for is the instrument's rounding and harmless; more is not.
void ScpiSupply::compare(const QString& command, const QString& ask, double wanted) {
    m_connection.query(ask, [this, command, wanted](const Result<QString>& r) {
        constexpr double share = 0.005, step = 0.002, least = 0.5;
        if (!r) return emit refused(command + ": " + QString::fromStdString(r.error().text()));
        const auto is = numberFromText(r.value().toStdString());
        if (!is || *is > wanted * (1 + share) + step || *is < wanted * least - step)
            emit refused(command + ": reads back as " + r.value().left(40));
    });
}

void ScpiSupply::setLimits(Volts volts, Amps amps, Volts overVoltage) {
    // The trip first, so that it guards the level; but many refuse a trip below the volts that are set.
    const bool lowers = m_sample.setVolts > overVoltage.value;
    m_sample.setVolts = volts.value;
    m_sample.setAmps = amps.value;
    const InstrumentProfile& profile = m_connection.profile();
    select();
    if (lowers) checked(filled(profile.setVolts, volts.value), profile.askVolts, volts.value);
    if (!profile.setTrip.isEmpty())
        checked(filled(profile.setTrip, overVoltage.value), profile.askTrip, overVoltage.value);
    checked(filled(profile.setAmps, amps.value), profile.askAmps, amps.value);
    if (!lowers) checked(filled(profile.setVolts, volts.value), profile.askVolts, volts.value);
}

void ScpiSupply::switchOn() {
    select();
    checked(filled(m_connection.profile().on));
}

void ScpiSupply::switchOff() {
    const InstrumentProfile& profile = m_connection.profile();
    // A waiting "on" would come after the "off". Limits that wait are still set: the next "on" stands on
    // them.
    m_connection.forget(filled(profile.on));
    if (!profile.select.isEmpty()) m_connection.urgent(filled(profile.select));
    m_connection.urgent(filled(profile.off));
}

void ScpiSupply::confirmOff(std::function<void(bool)> answer) {
    select();
    m_connection.query(filled(m_connection.profile().askOutput),
                       [this, answer = std::move(answer)](const Result<QString>& r) {
                           answer(r.ok() && m_connection.profile().offWords.contains(r.value()));
                       });
}

} // namespace ustor
