#pragma once

#include "thermal/recording.h"

#include <QObject>
#include <QString>

namespace ustor {

/// A thermal camera. Frames carry the camera's own time; `arrival_s` is in host seconds.
class Camera : public QObject {
    Q_OBJECT
  public:
    using QObject::QObject;
    virtual bool isConnected() const = 0;
    const RecordingInfo& info() const { return m_info; }

  signals:
    void connected(const ustor::RecordingInfo& info);
    void lost(const QString& why);
    void frame(const ustor::ThermalFrame& frame, double arrival_s);

  protected:
    RecordingInfo m_info;
};

} // namespace ustor
