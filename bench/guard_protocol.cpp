#include "bench/guard_protocol.h"

#include <QJsonDocument>
#include <array>
#include <utility>

namespace ustor {
namespace {

constexpr std::array<std::pair<GuardCause, std::string_view>, 10> causes{{
    {GuardCause::None, "none"},
    {GuardCause::WindowSilent, "window silent"},
    {GuardCause::WindowGone, "window gone"},
    {GuardCause::SupplySilent, "supply silent"},
    {GuardCause::LinkLost, "link lost"},
    {GuardCause::SettingRefused, "setting refused"},
    {GuardCause::LimitsChanged, "limits changed"},
    {GuardCause::AboveTrip, "above trip"},
    {GuardCause::NoSecond, "no second"},
    {GuardCause::GuardEnded, "guard ended"},
}};

} // namespace

std::string_view wordOf(GuardCause cause) {
    for (const auto& [each, word] : causes)
        if (each == cause) return word;
    return "none";
}

GuardCause guardCauseFrom(std::string_view word) {
    for (const auto& [cause, each] : causes)
        if (each == word) return cause;
    return GuardCause::None;
}

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
