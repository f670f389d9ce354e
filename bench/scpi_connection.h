#pragma once

#include "base/result.h"
#include "bench/bench_address.h"

#include <QObject>
#include <QTcpSocket>
#include <QTimer>
#include <deque>
#include <functional>

namespace ustor {

/// One instrument on a raw TCP socket: commands and queries in order, each query with a time-out; reconnects
/// by itself.
class ScpiConnection : public QObject {
    Q_OBJECT
  public:
    using Answer = std::function<void(const Result<QString>&)>;

    explicit ScpiConnection(QObject* parent = nullptr);
    ~ScpiConnection() override;

    void open(const SocketAddress& address);
    void close();
    bool isOpen() const { return m_socket.state() == QAbstractSocket::ConnectedState; }
    QString where() const { return m_address.text(); }

    void setTimeout(int milliseconds) { m_timeout_ms = milliseconds; }
    /// Sends a setting and reads the error queue behind it; the answer is the instrument's error or an empty
    /// text.
    void set(const QString& command, Answer answer = {});
    void query(const QString& command, Answer answer);
    /// Sends at once, before everything that waits: for switching off.
    void urgent(const QString& command);
    int waiting() const { return static_cast<int>(m_queue.size()); }

  signals:
    void opened();
    void lost(const QString& why);

  private:
    struct Item {
        QString line;
        Answer answer; ///< queries only
    };
    void connectNow();
    void sendNext();
    void takeLine(const QString& line);
    void fail(const QString& why);

    QTcpSocket m_socket;
    SocketAddress m_address;
    QTimer m_answerTimer, m_reconnectTimer;
    std::deque<Item> m_queue;
    bool m_pending = false, m_wanted = false;
    int m_timeout_ms = 1000;
};

} // namespace ustor
