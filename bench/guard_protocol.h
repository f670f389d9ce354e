#pragma once

#include "thermal/recording.h"

#include <QByteArray>
#include <QJsonObject>

namespace ustor {

/// Lines of JSON between the window and the guard, over the guard's standard input and output.
/// To the guard:   {"do":"beat"} {"do":"cap","volts":..,"amps":..}
/// {"do":"limits","volts":..,"amps":..,"over_volts":..}
///                 {"do":"on"} {"do":"off"} {"do":"quit"}
/// From the guard: {"is":"connected","identity":..} {"is":"lost","why":..} {"is":"refused","error":..}
///                 {"is":"telemetry","time_s":..,"output":..,"set_volts":..,"set_amps":..,"volts":..,"amps":..}
///                 {"is":"off","why":..}: the guard switched off by itself; {"is":"beat"}: it lives
struct GuardTiming {
    static constexpr int beat_ms = 150;    ///< how often the window says that it lives
    static constexpr int silence_ms = 700; ///< after this without a line the guard switches off
    static constexpr int supplySilence_ms = 1000;
    static constexpr int answer_ms = 600;       ///< a supply that has not answered by then is lost
    static constexpr int guardSilence_ms = 900; ///< a guard that says nothing for so long hangs
    static constexpr int guardStart_ms = 5000;  ///< the same while it starts
};

QByteArray guardLine(const QJsonObject& message);
QJsonObject telemetryMessage(const SupplySample& sample);
SupplySample sampleFromTelemetry(const QJsonObject& message);

} // namespace ustor
