#include "support/fake_instrument.h"

#include <QTcpSocket>

namespace ustor::testing {

FakeInstrument::FakeInstrument() {
    m_server.listen(QHostAddress::LocalHost, 0);
    connect(&m_server, &QTcpServer::newConnection, this, [this] {
        QTcpSocket* socket = m_server.nextPendingConnection();
        ++connections;
        m_sockets << socket;
        connect(socket, &QTcpSocket::disconnected, this, [this, socket] {
            m_sockets.removeAll(socket);
            socket->deleteLater();
        });
        connect(socket, &QTcpSocket::readyRead, this, [this, socket] {
            while (socket->canReadLine()) {
                const QString line = QString::fromLatin1(socket->readLine()).trimmed();
                heard << line;
                if (const QString reply = answer(line); !reply.isNull())
                    socket->write(reply.toLatin1() + '\n');
            }
        });
    });
}

void FakeInstrument::cut() {
    for (QTcpSocket* socket : QList<QTcpSocket*>(m_sockets))
        socket->abort();
}

void FakeInstrument::send(const QByteArray& raw) {
    for (QTcpSocket* socket : std::as_const(m_sockets))
        socket->write(raw);
}

} // namespace ustor::testing
