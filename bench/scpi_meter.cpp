#include "bench/scpi_meter.h"

#include "base/number_text.h"

#include <cmath>
#include <utility>

namespace ustor {

ScpiMeter::ScpiMeter(QObject* parent) : Meter(parent) {
    connect(&m_connection, &ScpiConnection::opened, this, [this] {
        m_connection.query(m_connection.profile().identity, [this](const Result<QString>& identity) {
            if (identity) emit connected(identity.value());
        });
    });
    connect(&m_connection, &ScpiConnection::lost, this, &Meter::lost);
}

void ScpiMeter::open(const InstrumentAddress& address, const InstrumentProfile& profile, double patience) {
    m_asked.reset();
    m_next.reset();
    m_connection.setTimeout(static_cast<int>(profile.answer_ms * patience));
    m_connection.open(address, profile);
}

void ScpiMeter::read(MeterMode mode) {
    if (m_asked)
        m_next = mode;
    else
        ask(mode);
}

void ScpiMeter::ask(MeterMode mode) {
    const InstrumentProfile& profile = m_connection.profile();
    const QString& command = mode == MeterMode::Volts   ? profile.readDcVolts
                             : mode == MeterMode::Diode ? profile.readDiode
                             : mode == MeterMode::Beep  ? profile.readBeep
                                                        : profile.readOhms;
    if (!m_connection.isOpen()) {
        emit failed(say("the meter is not connected"));
        return;
    }
    if (command.isEmpty()) {
        emit failed(say("this meter has no such mode: type what its display shows"));
        return;
    }
    m_asked = mode;
    m_connection.query(command, [this, mode](const Result<QString>& answer) {
        m_asked.reset();
        const auto next = std::exchange(m_next, std::nullopt);
        if (next && answer)
            ask(*next);
        else
            tell(mode, answer);
    });
}

void ScpiMeter::tell(MeterMode mode, const Result<QString>& answer) {
    if (!answer) {
        emit failed(answer.error().message());
        return;
    }
    const auto value = numberFromText(answer.value().toStdString());
    if (!value)
        emit failed(
            say("the meter answered '{answer}', which is no number", {{"answer", answer.value().left(40)}}));
    else if (std::fabs(*value) >= m_connection.profile().overRange)
        emit reading({mode, ReadingState::OverRange, 0, 0});
    else
        emit reading({mode, ReadingState::Value, *value, 0});
}

} // namespace ustor
