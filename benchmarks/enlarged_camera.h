#pragma once

#include "bench/stream_camera.h"
#include "standin/camera_server.h"

#include <QThread>
#include <atomic>
#include <condition_variable>
#include <mutex>

namespace ustor {

/// A large fast camera made of a simulated small one: each pixel four by four, fresh noise in every picture,
/// 60 pictures a second of 640 x 512. In a thread of its own, whose work can be told from the program's.
class EnlargedCamera : public QThread {
  public:
    static constexpr int width = 640, height = 512, times = 4;
    static constexpr double rate_hz = 60;

    explicit EnlargedCamera(SocketAddress small);
    ~EnlargedCamera() override;
    /// Waits until it listens; 0 where it cannot.
    quint16 port();
    int sent() const { return m_sent; }
    /// Processor time of this thread, s.
    double worked_s() const { return m_worked_s; }

  protected:
    void run() override;

  private:
    SocketAddress m_small;
    std::atomic<int> m_sent = 0;
    std::atomic<double> m_worked_s = 0;
    std::mutex m_mutex;
    std::condition_variable m_listening;
    int m_port = -1;
};

} // namespace ustor
