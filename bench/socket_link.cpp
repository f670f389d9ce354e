#include "bench/socket_link.h"
#include "base/input_bounds.h"

#include "bench/take_lines.h"

#include <QSignalBlocker>
#include <utility>

namespace ustor {

SocketLink::SocketLink(SocketAddress address, QByteArray lineEnd)
    : m_address(std::move(address)), m_lineEnd(std::move(lineEnd)) {
    connect(&m_socket, &QTcpSocket::connected, this, [this] {
        m_socket.setSocketOption(QAbstractSocket::LowDelayOption, 1);
        emit opened();
    });
    connect(&m_socket, &QTcpSocket::disconnected, this,
            [this] { emit closed(say("the connection was closed")); });
    connect(&m_socket, &QTcpSocket::errorOccurred, this, [this](QAbstractSocket::SocketError error) {
        m_refused = error == QAbstractSocket::ConnectionRefusedError;
        emit closed(verbatim(m_socket.errorString()));
    });
    // Kept small: what sends faster than it is read must wait at its own end.
    m_socket.setReadBufferSize(bounds::waiting_bytes);
    connect(&m_socket, &QTcpSocket::readyRead, this, &SocketLink::take);
}

SocketLink::~SocketLink() {
    // The socket outlives this class by a moment, and would tell of its end.
    m_socket.disconnect(this);
    m_socket.abort();
}

void SocketLink::take() {
    if (!takeLines(m_socket, *this, [this] { take(); })) emit closed(say(endlessAnswer));
}

void SocketLink::open() {
    m_socket.connectToHost(m_address.host, m_address.port);
}

void SocketLink::close() {
    const QSignalBlocker quiet(this);
    m_socket.disconnectFromHost();
}

void SocketLink::drop() {
    const QSignalBlocker quiet(this);
    m_socket.abort();
}

void SocketLink::send(const QByteArray& line, bool /*asks*/) {
    m_socket.write(line + m_lineEnd);
    m_socket.flush();
}

} // namespace ustor
