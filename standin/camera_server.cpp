#include "standin/camera_server.h"

#include <QTcpSocket>
#include <QtEndian>

namespace ustor::standin {

CameraServer::CameraServer(const StreamHead& head, QObject* parent) : QObject(parent), m_head(head) {
    connect(&m_server, &QTcpServer::newConnection, this, &CameraServer::accept);
}

bool CameraServer::listen() {
    return m_server.listen(QHostAddress::LocalHost, 0);
}

void CameraServer::setPlugged(bool plugged) {
    m_plugged = plugged;
    if (!plugged)
        for (QTcpSocket* socket : std::as_const(m_sockets))
            socket->abort();
}

void CameraServer::accept() {
    while (QTcpSocket* socket = m_server.nextPendingConnection()) {
        if (!m_plugged) {
            socket->abort();
            socket->deleteLater();
            continue;
        }
        m_sockets.append(socket);
        socket->write(QString("{\"format\":\"ustor-stream/"
                              "1\",\"width\":%1,\"height\":%2,\"frame_rate_hz\":%3,\"unit\":\"centikelvin\","
                              "\"netd_mk\":%4,\"ambient_c\":%5}\n")
                          .arg(m_head.width)
                          .arg(m_head.height)
                          .arg(m_head.frameRate_hz)
                          .arg(m_head.netd_mk)
                          .arg(m_head.ambient_c)
                          .toUtf8());
        connect(socket, &QTcpSocket::disconnected, this, [this, socket] {
            m_sockets.removeAll(socket);
            socket->deleteLater();
        });
    }
}

void CameraServer::send(const cv::Mat& picture, double time_s) {
    QByteArray packet(20 + static_cast<int>(picture.total()) * 2, Qt::Uninitialized);
    std::copy_n("UFRM", 4, packet.data());
    qToLittleEndian<quint32>(static_cast<quint32>(picture.cols), packet.data() + 4);
    qToLittleEndian<quint32>(static_cast<quint32>(picture.rows), packet.data() + 8);
    qToLittleEndian<quint64>(static_cast<quint64>(time_s * 1e6), packet.data() + 12);
    qToLittleEndian<quint16>(picture.ptr<quint16>(), static_cast<qsizetype>(picture.total()),
                             packet.data() + 20);
    for (QTcpSocket* socket : std::as_const(m_sockets)) {
        // A listener that does not keep up loses frames, as with a real camera, rather than fill the memory.
        constexpr qint64 backlog = 4 << 20;
        if (socket->bytesToWrite() < backlog) socket->write(packet);
    }
}

} // namespace ustor::standin
