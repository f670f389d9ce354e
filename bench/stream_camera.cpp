#include "bench/stream_camera.h"
#include "base/input_bounds.h"

#include "bench/clock.h"

#include <QJsonDocument>
#include <QJsonObject>
#include <QtEndian>
#include <cstring>
#include <utility>

namespace ustor {

namespace {

constexpr qsizetype head = 20; ///< bytes before the pixels: mark, width, height, microseconds

} // namespace

StreamCamera::StreamCamera(SocketAddress address, QObject* parent)
    : Camera(parent), m_address(std::move(address)) {
    m_reconnect.setSingleShot(true);
    m_reconnect.setInterval(300);
    const auto connectNow = [this] {
        if (m_wanted && m_socket.state() == QAbstractSocket::UnconnectedState)
            m_socket.connectToHost(m_address.host, m_address.port);
    };
    connect(&m_reconnect, &QTimer::timeout, this, connectNow);
    connect(&m_socket, &QTcpSocket::readyRead, this, &StreamCamera::take);
    connect(&m_socket, &QTcpSocket::errorOccurred, this, [this] { drop(verbatim(m_socket.errorString())); });
}

StreamCamera::~StreamCamera() {
    m_socket.disconnect(this);
    m_socket.abort();
}

void StreamCamera::start() {
    m_wanted = true;
    m_socket.connectToHost(m_address.host, m_address.port);
}

void StreamCamera::close() {
    m_wanted = false;
    m_greeted = false;
    const QSignalBlocker quiet(m_socket);
    m_socket.abort();
}

void StreamCamera::drop(const Message& why) {
    {
        const QSignalBlocker quiet(m_socket);
        m_socket.abort();
    }
    m_buffer.clear();
    const bool was = m_greeted;
    m_greeted = false;
    if (m_wanted) m_reconnect.start();
    if (was) emit lost(why);
}

void StreamCamera::take() {
    m_buffer += m_socket.readAll();
    if (!m_greeted && !takeHeader()) return;
    if (!m_greeted || !skip()) return;
    // One frame a turn of the event loop: after a standstill some wait, and the window has to stay awake.
    if (takeFrame() && m_buffer.size() >= frameBytes()) QTimer::singleShot(0, this, &StreamCamera::take);
}

qsizetype StreamCamera::frameBytes() const {
    return head + static_cast<qsizetype>(sizeof(quint16)) * m_info.width * m_info.height;
}

/// Whoever cannot keep up sees the newest frames: the oldest of those that wait are left out, and counted.
bool StreamCamera::skip() {
    constexpr qsizetype mostWaiting = 8;
    const qsizetype waiting = m_buffer.size() / frameBytes(), tooMany = waiting - mostWaiting;
    if (tooMany <= 0) return true;
    for (qsizetype i = 0; i < tooMany; ++i)
        if (!fits(m_buffer.constData() + i * frameBytes())) return true; // `takeFrame` tells it in its turn
    m_buffer.remove(0, tooMany * frameBytes());
    emit skipped(static_cast<int>(tooMany));
    return m_greeted; // whoever heard it may have closed the camera
}

bool StreamCamera::fits(const char* data) const {
    return std::memcmp(data, "UFRM", 4) == 0 &&
           qFromLittleEndian<quint32>(data + 4) == static_cast<quint32>(m_info.width) &&
           qFromLittleEndian<quint32>(data + 8) == static_cast<quint32>(m_info.height);
}

bool StreamCamera::takeHeader() {
    const auto end = m_buffer.indexOf('\n');
    if (end < 0) {
        if (m_buffer.size() > bounds::greeting_bytes) drop(say("not a camera stream"));
        return false;
    }
    const QJsonObject j = QJsonDocument::fromJson(m_buffer.left(end)).object();
    m_buffer.remove(0, end + 1);
    CameraInfo info;
    info.width = j["width"].toInt();
    info.height = j["height"].toInt();
    info.frameRate_hz = j["frame_rate_hz"].toDouble(25);
    info.netd_mk = j["netd_mk"].toDouble();
    info.ambient_c = j["ambient_c"].toDouble(25);
    if (j["format"].toString() != "ustor-stream/1") {
        drop(say("not a camera stream this version reads"));
        return false;
    }
    if (const auto why = whyNoCamera(info)) {
        drop(*why);
        return false;
    }
    m_info = info;
    m_greeted = true;
    emit connected(m_info);
    return true;
}

bool StreamCamera::takeFrame() {
    if (m_buffer.size() < frameBytes()) return false;
    const char* data = m_buffer.constData();
    if (!fits(data)) {
        drop(say("the camera stream lost its step"));
        return false;
    }
    CameraFrame next{
        static_cast<double>(qFromLittleEndian<quint64>(data + 12)) * 1e-6, m_info.width, m_info.height, {}};
    next.centikelvin.resize(static_cast<std::size_t>(m_info.width) * m_info.height);
    qFromLittleEndian<quint16>(data + head, static_cast<qsizetype>(next.centikelvin.size()),
                               next.centikelvin.data());
    m_buffer.remove(0, frameBytes());
    emit frame(next, hostSeconds());
    return true;
}

} // namespace ustor
