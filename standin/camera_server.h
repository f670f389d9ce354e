#pragma once

#include <QObject>
#include <QTcpServer>
#include <opencv2/core.hpp>

class QTcpSocket;

namespace ustor::standin {

/// What the stream says of itself in its first line.
struct StreamHead {
    int width = 0, height = 0;
    double frameRate_hz = 0, netd_mk = 0, ambient_c = 25;
};

/// Sends pictures to whoever listens, in the open stream format "ustor-stream/1": one line of JSON, then for
/// each frame the bytes "UFRM", width and height as little-endian 32-bit numbers, the camera's time in
/// microseconds as 64-bit, and width x height little-endian 16-bit centikelvin.
class CameraServer : public QObject {
    Q_OBJECT
  public:
    CameraServer(const StreamHead& head, QObject* parent);
    bool listen();
    quint16 port() const { return m_server.serverPort(); }
    void send(const cv::Mat& centikelvin, double time_s);
    void setPlugged(bool plugged);
    bool hasListener() const { return !m_sockets.isEmpty(); }

  private:
    void accept();

    StreamHead m_head;
    // Before the server: its sockets tell of their end while it is destroyed.
    QList<QTcpSocket*> m_sockets;
    QTcpServer m_server;
    bool m_plugged = true;
};

} // namespace ustor::standin
