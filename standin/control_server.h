#pragma once

#include <QJsonObject>
#include <QObject>
#include <QTcpServer>
#include <functional>

namespace ustor::standin {

/// One JSON object a line in, one a line out: {"do":"leads","plus":"C5.1","minus":"GND"} -> {"ok":true,...}.
class ControlServer : public QObject {
    Q_OBJECT
  public:
    using Handler = std::function<QJsonObject(const QJsonObject&)>;
    ControlServer(Handler handler, QObject* parent);
    bool listen();
    quint16 port() const { return m_server.serverPort(); }

  private:
    void accept();
    Handler m_handler;
    QTcpServer m_server;
};

} // namespace ustor::standin
