#include "bench/scpi_meter.h"

#include "base/number_text.h"

namespace ustor {

ScpiMeter::ScpiMeter(QObject* parent) : Meter(parent) {
    m_connection.setTimeout(2500); // meters take their time
    connect(&m_connection, &ScpiConnection::opened, this, [this] {
        m_connection.query("*IDN?", [this](const Result<QString>& identity) {
            if (identity) emit connected(identity.value());
        });
    });
    connect(&m_connection, &ScpiConnection::lost, this, &Meter::lost);
}

void ScpiMeter::read(MeterMode mode) {
    const char* node = mode == MeterMode::Volts   ? "VOLT"
                       : mode == MeterMode::Diode ? "DIOD"
                       : mode == MeterMode::Beep  ? "CONT"
                                                  : "RES";
    if (!m_connection.isOpen()) {
        emit failed("the meter is not connected");
        return;
    }
    m_connection.query(QString("MEAS:%1?").arg(node), [this, mode](const Result<QString>& answer) {
        if (!answer) {
            emit failed(QString::fromStdString(answer.error().text()));
            return;
        }
        const auto value = numberFromText(answer.value().toStdString());
        constexpr double overRange = 9e37;
        if (!value)
            emit failed("the meter answered '" + answer.value().left(40) + "', which is no number");
        else if (*value >= overRange)
            emit reading({mode, ReadingState::OverRange, 0, 0});
        else
            emit reading({mode, ReadingState::Value, *value, 0});
    });
}

} // namespace ustor
