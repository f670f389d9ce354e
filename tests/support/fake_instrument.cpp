#include "support/fake_instrument.h"

#include <QTcpSocket>

namespace ustor::testing {

QString Obedient::operator()(const QString& line) {
    if (line == "SYST:ERR?") return "0,\"No error\"";
    if (line == "*IDN?") return "INVENTED,THING,0,1";
    if (!line.endsWith('?')) {
        if (const auto blank = line.indexOf(' '); blank > 0)
            m_settings[line.left(blank)] = line.mid(blank + 1);
        return {};
    }
    const QString header = line.chopped(1);
    if (header == "OUTP") return m_settings.value(header, "OFF") == "ON" ? "1" : "0";
    return m_settings.value(header, m_otherwise);
}

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
