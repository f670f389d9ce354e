#pragma once

#include "bench/camera.h"
#include "thermal/recording.h"

#include <QTimer>

namespace ustor {

/// Plays a recording folder as if it were a camera, at its own pace times a speed.
class ReplayCamera : public Camera {
    Q_OBJECT
  public:
    explicit ReplayCamera(Recording recording, double speed = 1, QObject* parent = nullptr);
    void start() override;
    bool isConnected() const override { return m_timer.isActive(); }

  private:
    void play();
    Recording m_recording;
    double m_speed, m_start_s = 0;
    std::size_t m_next = 0;
    QTimer m_timer;
};

} // namespace ustor
