#pragma once

#include <QObject> // first: Qt 6.4's moc cannot read <compare> before it
#include <QString>

#include "base/message.h"
#include "base/supply_sample.h"
#include "base/units.h"

namespace ustor {

/// A bench supply. Calls return at once. Telemetry comes some twenty times a second while connected; its
/// times are host seconds.
class Supply : public QObject {
    Q_OBJECT
  public:
    using QObject::QObject;
    /// Over-voltage trip first, then current and voltage limits; each setting is checked against the error
    /// queue.
    /// `longestOn_s`: longer than that the output is never on at a time; for supplies that have a timer of
    /// their own.
    virtual void setLimits(Volts volts, Amps amps, Volts overVoltage, double longestOn_s = 0) = 0;
    virtual void switchOn() = 0;
    virtual void switchOff() = 0;
    virtual bool isConnected() const = 0;

  signals:
    void connected(const QString& identity);
    void lost(const ustor::Message& why);
    void telemetry(const ustor::SupplySample& sample);
    void refused(const ustor::Message& error); ///< the instrument or the guard did not take a setting
};

} // namespace ustor
