#pragma once

#include "base/supply_sample.h"

#include <QByteArray>
#include <QJsonObject>
#include <string_view>

namespace ustor {

/// Why the guard switched off, or would not switch on.
enum class GuardCause {
    None,
    WindowSilent,   ///< no beat
    WindowGone,     ///< its end of the pipe is closed, or it asked to end
    SupplySilent,   ///< no answer
    LinkLost,       ///< the way to the supply broke
    SettingRefused, ///< the supply did not take a setting, or the guard did not pass it on
    LimitsChanged,  ///< other limits than were set were read back
    AboveTrip,      ///< more volts than the trip were read
    NoSecond,       ///< the second process, which would take over, cannot be kept alive
    GuardEnded      ///< the guard itself ended or hung
};
std::string_view wordOf(GuardCause cause);
GuardCause guardCauseFrom(std::string_view word);

/// Lines of JSON between the window and the guard, over the guard's standard input and output.
/// To the guard:   {"do":"beat"} {"do":"cap","volts":..,"amps":..}
///                 {"do":"limits","volts":..,"amps":..,"over_volts":..,"on_seconds":..}
///                 {"do":"on"} {"do":"off"} {"do":"quit"}
/// From the guard: {"is":"connected","identity":..} {"is":"lost","why":..} {"is":"refused","error":..}
///                 {"is":"telemetry","time_s":..,"output":..,"set_volts":..,"set_amps":..,"volts":..,"amps":..}
///                 {"is":"off","cause":..,"why":..}: the guard switched off by itself; {"is":"beat"}: it
///                 lives
/// From the guard to its second: {"do":"beat"} {"do":"watch","on":..} {"do":"quit"}
struct GuardTiming {
    static constexpr int beat_ms = 100;    ///< how often the window says that it lives
    static constexpr int silence_ms = 600; ///< after this without a line the guard switches off
    static constexpr int supplySilence_ms = 1000;
    static constexpr int answer_ms = 600;       ///< a supply that has not answered by then is lost
    static constexpr int guardBeat_ms = 50;     ///< how often the guard says that it lives
    static constexpr int guardSilence_ms = 450; ///< a guard that says nothing for so long hangs
    static constexpr int guardStart_ms = 5000;  ///< the same while it starts
    static constexpr int obeys_ms = 500;        ///< longest that a supply takes to read as off
    static constexpr int signature_ms = 1500;   ///< an older signature in the ledger is nobody's
    /// Tries again after so long, twice as long after each that fails, up to the most.
    static constexpr int firstPause_ms = 100, mostPause_ms = 500, mostRestartPause_ms = 4000;
};

QByteArray guardLine(const QJsonObject& message);
QJsonObject telemetryMessage(const SupplySample& sample);
SupplySample sampleFromTelemetry(const QJsonObject& message);

} // namespace ustor
