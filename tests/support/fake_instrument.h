#pragma once

#include "bench/socket_address.h"

#include <QHash>
#include <QObject>
#include <QStringList>
#include <QTcpServer>
#include <functional>

class QTcpSocket;

namespace ustor::testing {

/// Answers as a supply would that takes every setting: what was set is read back, the error queue is empty.
class Obedient {
  public:
    /// `otherwise`: the answer to every other question.
    explicit Obedient(QString otherwise = "0.5") : m_otherwise(std::move(otherwise)) {}
    QString operator()(const QString& line);

  private:
    QString m_otherwise;
    QHash<QString, QString> m_settings; ///< by header
};

/// A line-based instrument of a test's own making: notes what it hears, answers what the test says.
class FakeInstrument : public QObject {
    Q_OBJECT
  public:
    /// The answer to a line; a null string answers nothing.
    std::function<QString(const QString&)> answer = [](const QString&) { return QString(); };
    FakeInstrument();
    SocketAddress address() const { return {"127.0.0.1", m_server.serverPort()}; }
    void cut();                       ///< drops whoever is connected
    void send(const QByteArray& raw); ///< out of turn, to all
    QStringList heard;
    int connections = 0;

  private:
    // Before the server: its sockets tell of their end while it is destroyed.
    QList<QTcpSocket*> m_sockets;
    QTcpServer m_server;
};

} // namespace ustor::testing
