#pragma once

#include "bench/line_link.h"

#include <QTcpSocket>

namespace ustor {

/// Lines over a raw TCP socket.
class SocketLink : public LineLink {
    Q_OBJECT
  public:
    SocketLink(SocketAddress address, QByteArray lineEnd);
    ~SocketLink() override;
    void open() override;
    void close() override;
    void drop() override;
    bool isOpen() const override { return m_socket.state() == QAbstractSocket::ConnectedState; }
    bool isIdle() const override { return m_socket.state() == QAbstractSocket::UnconnectedState; }
    void send(const QByteArray& line, bool asks) override;
    bool nobodyListens() const override { return m_refused; }

  private:
    void take();

    SocketAddress m_address;
    QByteArray m_lineEnd;
    QTcpSocket m_socket;
    bool m_refused = false;
};

} // namespace ustor
