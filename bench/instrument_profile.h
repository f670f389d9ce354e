#pragma once

#include "base/result.h"

#include <QByteArray>
#include <QString>
#include <QStringList>

namespace ustor {

/// The part of a camera's picture that is heat, in pixels: without lines of the camera's own data. Empty: all
/// of it.
struct PictureCrop {
    int x = 0, y = 0, width = 0, height = 0;
    bool empty() const { return width <= 0 || height <= 0; }
};

/// How one make of instrument differs from plain SCPI-1999; `"format": "ustor-instrument/1"`. A file holds
/// only what differs. In commands `{volts}`, `{amps}` and `{channel}` are filled in. An empty command is one
/// that the instrument does not have.
struct InstrumentProfile {
    enum class Kind { Supply, Meter, Camera };
    Kind kind = Kind::Supply;
    QString name;

    // Supplies and meters.
    QByteArray lineEnd = "\n";
    QString identity = "*IDN?", clear = "*CLS", error = "SYST:ERR?";

    // Supplies.
    int channels = 1;
    QString select; ///< sent before what concerns one channel, e.g. "INST:NSEL {channel}"
    QString setTrip = "VOLT:PROT {volts}", setAmps = "CURR {amps}", setVolts = "VOLT {volts}";
    QString askTrip = "VOLT:PROT?", askAmps = "CURR?", askVolts = "VOLT?"; ///< settings are read back
    QString askChannel;                                                    ///< which channel is selected
    QStringList watchdog; ///< the supply switches off by itself when it hears nothing for {seconds}
    QStringList
        beforeOn; ///< before each "on": an on-time limit, a list with a count; {seconds} is the longest
    QString on = "OUTP ON", off = "OUTP OFF", askOutput = "OUTP?";
    QString readVolts = "MEAS:VOLT?", readAmps = "MEAS:CURR?";
    QStringList onWords = {"1", "ON"}, offWords = {"0", "OFF"};

    // Meters.
    QString readOhms = "MEAS:RES?", readDiode = "MEAS:DIOD?", readBeep = "MEAS:CONT?",
            readDcVolts = "MEAS:VOLT?";
    double overRange = 9e37; ///< values from here on are over range (9.9E37 by SCPI-1999)
    int answer_ms = 2500;

    // Cameras with 16-bit counts: kelvin = offset + counts * perCount.
    double kelvinPerCount = 0.01, kelvinOffset = 0;
    double netd_mk = 60, frameRate_hz = 0; ///< rate 0: what the driver says
    int width = 0, height = 0;             ///< of the picture asked for; 0: the first that the driver lists
    PictureCrop crop;
};

/// `where`: file name for errors. An unknown key is an error: a misspelt command must not pass for a default.
Result<InstrumentProfile> profileFromJson(const QByteArray& json, const QString& where);
/// The profile that an address names; plain SCPI where it names none. An error too when it is for another
/// kind of instrument.
Result<InstrumentProfile> profileFor(const QString& path, InstrumentProfile::Kind kind);

QString wordOf(InstrumentProfile::Kind kind);
Message labelOf(InstrumentProfile::Kind kind);

} // namespace ustor
