#include "bench/guard_protocol.h"

#include <QJsonDocument>

namespace ustor {

QByteArray guardLine(const QJsonObject& message) {
    return QJsonDocument(message).toJson(QJsonDocument::Compact) + '\n';
}

QJsonObject telemetryMessage(const SupplySample& s) {
    return {{"is", "telemetry"},     {"time_s", s.time_s}, {"output", s.output}, {"set_volts", s.setVolts},
            {"set_amps", s.setAmps}, {"volts", s.volts},   {"amps", s.amps}};
}

SupplySample sampleFromTelemetry(const QJsonObject& j) {
    return {j["time_s"].toDouble(),   j["output"].toBool(),  j["set_volts"].toDouble(),
            j["set_amps"].toDouble(), j["volts"].toDouble(), j["amps"].toDouble()};
}

} // namespace ustor
