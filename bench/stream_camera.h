#pragma once

#include "bench/camera.h"
#include "bench/socket_address.h"

#include <QTcpSocket>
#include <QTimer>

namespace ustor {

/// A camera behind a socket that sends "ustor-stream/1" (docs/formats/standin.md). Reconnects by itself; a
/// stream that breaks its own format is cut and tried again. Frames that nobody had the time for are left
/// out.
class StreamCamera : public Camera {
    Q_OBJECT
  public:
    explicit StreamCamera(SocketAddress address, QObject* parent = nullptr);
    ~StreamCamera() override;
    void start() override;
    void close();
    bool isConnected() const override { return m_greeted; }

  private:
    void take();
    bool takeHeader();
    bool takeFrame();
    bool skip();
    qsizetype frameBytes() const;
    bool fits(const char* data) const;
    void drop(const Message& why);

    QTcpSocket m_socket;
    QTimer m_reconnect;
    SocketAddress m_address;
    QByteArray m_buffer;
    bool m_greeted = false, m_wanted = false;
};

} // namespace ustor
