#include "bench/scpi_supply.h"

#include "base/number_text.h"
#include "bench/clock.h"
#include "bench/guard_protocol.h"

#include <cmath>
#include <memory>
#include <utility>

namespace ustor {

ScpiSupply::ScpiSupply(QObject* parent) : Supply(parent) {
    m_connection.setTimeout(GuardTiming::answer_ms);
    m_poll.setInterval(40);
    m_poll.setTimerType(Qt::PreciseTimer);
    connect(&m_connection, &ScpiConnection::opened, this, &ScpiSupply::greet);
    connect(&m_connection, &ScpiConnection::lost, this, [this](const Message& why) {
        m_poll.stop();
        m_state = Limits::None;
        m_onWanted = false;
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
        .replace("{amps}", number)
        .replace("{seconds}", number);
}

/// Before every group of commands: a hand on the front panel may have chosen another channel.
void ScpiSupply::select() {
    if (const QString& command = m_connection.profile().select; !command.isEmpty())
        m_connection.tell(filled(command));
}

void ScpiSupply::greet() {
    m_state = Limits::None;
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
    m_ampsRead = m_fresh = false;
    const bool compares = m_onWanted && m_state == Limits::Held;
    m_connection.query(filled(profile.readVolts), [this](const Result<QString>& r) {
        if (!r) return;
        if (const auto volts = numberFromText(r.value().toStdString())) m_sample.volts = *volts;
    });
    m_connection.query(filled(profile.readAmps), [this](const Result<QString>& r) {
        const auto amps = r ? numberFromText(r.value().toStdString()) : std::nullopt;
        if (!amps) return;
        m_sample.amps = *amps;
        m_ampsRead = true;
    });
    // Asked last: an output that went off meanwhile must not pass for a current that fell.
    m_connection.query(filled(profile.askOutput), [this, compares](const Result<QString>& r) {
        if (!r || !m_ampsRead) return;
        // What is neither a word for on nor one for off tells nothing, and above all not that it is off.
        const bool on = m_connection.profile().onWords.contains(r.value());
        if (!on && !m_connection.profile().offWords.contains(r.value())) return;
        m_sample.output = on;
        m_sample.time_s = hostSeconds();
        m_fresh = true;
        if (!compares) emit telemetry(m_sample);
    });
    // Told before what was measured: limits that somebody changed are the cause, a current above them is what
    // follows.
    if (compares)
        compare([this](const Message& difference) {
            if (!difference.empty() && m_onWanted) {
                m_state = Limits::None;
                emit limitsChanged(difference);
            }
            if (m_fresh) emit telemetry(m_sample);
        });
}

void ScpiSupply::refuse(const Message& why) {
    m_state = Limits::None;
    m_onWanted = false;
    m_connection.forget(filled(m_connection.profile().on));
    emit refused(why);
}

void ScpiSupply::checked(const QString& command) {
    m_connection.set(command, [this, command](const Result<QString>& r) {
        if (!r)
            refuse(joined({verbatim(command), r.error().message()}, ": "));
        else if (!r.value().isEmpty())
            refuse(joined({verbatim(command), verbatim(r.value())}, ": "));
    });
}

void ScpiSupply::askOne(const QString& ask, double wanted, bool isTrip,
                        const std::function<void(const Message&, double)>& then) {
    m_connection.query(filled(ask), [ask, wanted, isTrip, then](const Result<QString>& r) {
        // Less than was asked for is the instrument's rounding and harmless; more is not. A trip has coarse
        // steps.
        const double share = isTrip ? 0.02 : 0.005, step = isTrip ? 0.05 : 0.002;
        constexpr double least = 0.5;
        if (!r) return then(joined({verbatim(ask), r.error().message()}, ": "), 0);
        const auto is = numberFromText(r.value().toStdString());
        const bool as = is && *is <= wanted * (1 + share) + step && *is >= wanted * least - step;
        then(as ? Message()
                : say("{question} reads back as {answer}, {wanted} was set",
                      {{"question", ask},
                       {"answer", r.value().left(40)},
                       {"wanted", QString::number(wanted)}}),
             is.value_or(0));
    });
}

void ScpiSupply::compare(std::function<void(const Message&)> then) {
    const InstrumentProfile& profile = m_connection.profile();
    // All share what they found; the last tells.
    auto difference = std::make_shared<Message>();
    const auto note = [this, difference](const Message& d, double value, double SupplySample::*member) {
        if (difference->empty()) *difference = d;
        if (member) m_sample.*member = value;
    };
    select();
    if (!profile.askChannel.isEmpty())
        m_connection.query(profile.askChannel, [this, difference](const Result<QString>& r) {
            const auto is = r ? numberFromText(r.value().toStdString()) : std::nullopt;
            if ((!is || *is != m_channel) && difference->empty())
                *difference = say("channel {chosen} is chosen, not {wanted}",
                                  {{"chosen", r ? r.value() : QString("none")}, {"wanted", m_channel}});
        });
    if (!profile.askTrip.isEmpty() && !profile.setTrip.isEmpty())
        askOne(profile.askTrip, m_limits.trip, true,
               [note](const Message& d, double v) { note(d, v, nullptr); });
    if (!profile.askAmps.isEmpty())
        askOne(profile.askAmps, m_limits.amps, false,
               [note](const Message& d, double v) { note(d, v, &SupplySample::setAmps); });
    if (!profile.askVolts.isEmpty())
        askOne(profile.askVolts, m_limits.volts, false,
               [note](const Message& d, double v) { note(d, v, &SupplySample::setVolts); });
    m_connection.afterAll([difference, then = std::move(then)] { then(*difference); });
}

void ScpiSupply::setLimits(Volts volts, Amps amps, Volts overVoltage, double longestOn_s) {
    m_limits = {volts.value, amps.value, overVoltage.value, longestOn_s};
    set();
}

void ScpiSupply::set() {
    m_state = Limits::Asked;
    // The trip first, so that it guards the level; but many refuse a trip below the volts that are set.
    const bool lowers = m_sample.setVolts > m_limits.trip;
    m_sample.setVolts = m_limits.volts;
    m_sample.setAmps = m_limits.amps;
    const InstrumentProfile& profile = m_connection.profile();
    select();
    for (const QString& command : profile.watchdog)
        checked(filled(command, 1e-3 * GuardTiming::supplySilence_ms));
    if (lowers) checked(filled(profile.setVolts, m_limits.volts));
    if (!profile.setTrip.isEmpty()) checked(filled(profile.setTrip, m_limits.trip));
    checked(filled(profile.setAmps, m_limits.amps));
    if (!lowers) checked(filled(profile.setVolts, m_limits.volts));
    compare([this](const Message& difference) {
        if (m_state != Limits::Asked) return; // refused meanwhile, and told
        if (!difference.empty()) return refuse(difference);
        m_state = Limits::Held;
        if (m_onWanted) comeOn();
    });
}

void ScpiSupply::switchOn() {
    if (m_state == Limits::None)
        return refuse(say("no limits were taken and read back since the supply was connected"));
    m_onWanted = true;
    if (m_state == Limits::Asked) return; // as soon as they hold
    const InstrumentProfile& profile = m_connection.profile();
    const bool readsBack = !profile.askVolts.isEmpty() && !profile.askAmps.isEmpty() &&
                           (profile.setTrip.isEmpty() || !profile.askTrip.isEmpty());
    if (!readsBack) return set(); // what cannot be read is set anew
    compare([this](const Message& difference) {
        if (!m_onWanted) return;
        if (difference.empty()) return comeOn();
        m_state = Limits::None;
        m_onWanted = false;
        emit limitsChanged(difference);
    });
}

void ScpiSupply::comeOn() {
    const InstrumentProfile& profile = m_connection.profile();
    select();
    if (m_limits.longestOn_s > 0)
        for (const QString& command : profile.beforeOn)
            checked(filled(command, m_limits.longestOn_s));
    checked(filled(profile.on));
}

void ScpiSupply::switchOff() {
    m_onWanted = false;
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
