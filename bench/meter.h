#pragma once

#include "base/measurement.h"
#include "base/message.h"

#include <QObject>
#include <QString>

namespace ustor {

/// A multimeter. `read` answers with one of the two signals, `reading` or `failed`, as soon as the instrument
/// has. Asked again before that, what is under way is not told any more: the answer is always to the newest
/// question, and questions never pile up before a slow instrument.
class Meter : public QObject {
    Q_OBJECT
  public:
    using QObject::QObject;
    virtual void read(MeterMode mode) = 0;
    virtual bool isConnected() const = 0;
    virtual bool isReading() const = 0;

  signals:
    void connected(const QString& identity);
    void lost(const ustor::Message& why);
    void reading(const ustor::Reading& reading);
    void failed(const ustor::Message& why);
};

} // namespace ustor
