#include "bench/scpi_connection.h"

#include <utility>

namespace ustor {

ScpiConnection::ScpiConnection(QObject* parent) : QObject(parent) {
    m_answerTimer.setSingleShot(true);
    m_reconnectTimer.setSingleShot(true);
    connect(&m_socket, &QTcpSocket::connected, this, [this] {
        m_socket.setSocketOption(QAbstractSocket::LowDelayOption, 1);
        emit opened();
        sendNext();
    });
    connect(&m_socket, &QTcpSocket::disconnected, this, [this] { fail("the connection was closed"); });
    connect(&m_socket, &QTcpSocket::errorOccurred, this, [this] { fail(m_socket.errorString()); });
    connect(&m_socket, &QTcpSocket::readyRead, this, [this] {
        while (m_socket.canReadLine())
            takeLine(QString::fromLatin1(m_socket.readLine()).trimmed());
        constexpr qint64 longestLine = 1 << 20;
        if (m_socket.bytesAvailable() > longestLine) fail("an answer without an end");
    });
    connect(&m_answerTimer, &QTimer::timeout, this,
            [this] { fail("no answer within " + QString::number(m_timeout_ms) + " ms"); });
    connect(&m_reconnectTimer, &QTimer::timeout, this, &ScpiConnection::connectNow);
}

ScpiConnection::~ScpiConnection() {
    // The socket outlives the timers by a moment, and would tell of its end.
    m_socket.disconnect(this);
    m_socket.abort();
}

void ScpiConnection::open(const SocketAddress& address) {
    m_address = address;
    m_wanted = true;
    connectNow();
}

void ScpiConnection::close() {
    m_wanted = false;
    m_reconnectTimer.stop();
    m_answerTimer.stop();
    m_queue.clear();
    m_pending = false;
    m_socket.disconnectFromHost();
}

void ScpiConnection::connectNow() {
    if (m_wanted && m_socket.state() == QAbstractSocket::UnconnectedState)
        m_socket.connectToHost(m_address.host, m_address.port);
}

void ScpiConnection::fail(const QString& why) {
    m_answerTimer.stop();
    m_pending = false;
    // A late answer would be taken for the next query's: after a time-out only a fresh connection is safe.
    if (m_socket.state() != QAbstractSocket::UnconnectedState) {
        const QSignalBlocker quiet(m_socket);
        m_socket.abort();
    }
    const auto waiting = std::exchange(m_queue, {});
    for (const Item& item : waiting)
        if (item.answer)
            item.answer(
                Error{why.toStdString(), where().toStdString(), "the setting may not have been taken"});
    if (!m_wanted) return;
    constexpr int pause_ms = 250;
    if (!m_reconnectTimer.isActive()) m_reconnectTimer.start(pause_ms);
    emit lost(why);
}

void ScpiConnection::set(const QString& command, Answer answer) {
    m_queue.push_back({command, {}});
    query("SYST:ERR?", [answer = std::move(answer)](const Result<QString>& reply) {
        if (!answer) return;
        if (!reply) return answer(reply);
        const bool fine = reply.value().startsWith("0") || reply.value().startsWith("+0");
        answer(fine ? Result<QString>(QString()) : Result<QString>(reply.value()));
    });
}

void ScpiConnection::query(const QString& command, Answer answer) {
    m_queue.push_back({command, std::move(answer)});
    sendNext();
}

void ScpiConnection::urgent(const QString& command) {
    if (isOpen()) {
        m_socket.write(command.toLatin1() + '\n');
        m_socket.flush();
    }
}

void ScpiConnection::sendNext() {
    while (isOpen() && !m_pending && !m_queue.empty()) {
        const Item& item = m_queue.front();
        m_socket.write(item.line.toLatin1() + '\n');
        if (item.answer) {
            m_pending = true;
            m_answerTimer.start(m_timeout_ms);
        } else {
            m_queue.pop_front();
        }
    }
}

void ScpiConnection::takeLine(const QString& line) {
    if (!m_pending || m_queue.empty()) return; // nothing was asked: an answer out of turn
    m_answerTimer.stop();
    m_pending = false;
    const Answer answer = std::move(m_queue.front().answer);
    m_queue.pop_front();
    answer(line);
    sendNext();
}

} // namespace ustor
