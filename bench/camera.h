#pragma once

#include "base/camera_frame.h"
#include "base/message.h"

#include <QObject>
#include <QString>

namespace ustor {

/// A thermal camera. Frames carry the camera's own time; `arrival_s` is in host seconds.
class Camera : public QObject {
    Q_OBJECT
  public:
    using QObject::QObject;
    /// `connected` or `lost` follows; what is lost is tried again by itself, where that can help.
    virtual void start() = 0;
    virtual bool isConnected() const = 0;
    const CameraInfo& info() const { return m_info; }

  signals:
    void connected(const ustor::CameraInfo& info);
    void lost(const ustor::Message& why);
    /// Frames that came, and were left out because newer ones were waiting behind them.
    void skipped(int frames);
    void frame(const ustor::CameraFrame& frame, double arrival_s);

  protected:
    CameraInfo m_info;
};

} // namespace ustor
