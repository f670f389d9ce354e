#include "standin/control_server.h"

#include <QJsonDocument>
#include <QTcpSocket>

namespace ustor::standin {

ControlServer::ControlServer(Handler handler, QObject* parent)
    : QObject(parent), m_handler(std::move(handler)) {
    connect(&m_server, &QTcpServer::newConnection, this, &ControlServer::accept);
}

bool ControlServer::listen() {
    return m_server.listen(QHostAddress::LocalHost, 0);
}

void ControlServer::accept() {
    while (QTcpSocket* socket = m_server.nextPendingConnection()) {
        connect(socket, &QTcpSocket::readyRead, this, [this, socket] {
            while (socket->canReadLine()) {
                const QJsonDocument request = QJsonDocument::fromJson(socket->readLine());
                const QJsonObject answer =
                    request.isObject()
                        ? m_handler(request.object())
                        : QJsonObject{{"ok", false}, {"error", "one JSON object a line is expected"}};
                socket->write(QJsonDocument(answer).toJson(QJsonDocument::Compact) + '\n');
            }
        });
        connect(socket, &QTcpSocket::disconnected, socket, &QObject::deleteLater);
    }
}

} // namespace ustor::standin
