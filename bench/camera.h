#pragma once

#include "base/result.h"
#include "bench/instrument_address.h"
#include "thermal/recording.h"

#include <QObject>
#include <QString>
#include <memory>

namespace ustor {

/// A thermal camera. Frames carry the camera's own time; `arrival_s` is in host seconds.
class Camera : public QObject {
    Q_OBJECT
  public:
    using QObject::QObject;
    /// `connected` or `lost` follows; what is lost is tried again by itself, where that can help.
    virtual void start() = 0;
    virtual bool isConnected() const = 0;
    const RecordingInfo& info() const { return m_info; }

  signals:
    void connected(const ustor::RecordingInfo& info);
    void lost(const QString& why);
    void frame(const ustor::ThermalFrame& frame, double arrival_s);

  protected:
    RecordingInfo m_info;
};

/// The camera that an address asks for, not yet started. An error where its profile or recording cannot be
/// read, or where there can be no camera.
Result<std::unique_ptr<Camera>> cameraAt(const InstrumentAddress& address);

} // namespace ustor
