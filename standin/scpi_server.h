#pragma once

#include "standin/serial_line.h"

#include <QHash>
#include <QObject>
#include <QStringList>
#include <QTcpServer>
#include <QTimer>
#include <deque>
#include <functional>
#include <memory>

class QTcpSocket;

namespace ustor::standin {

/// An instrument on a socket: SCPI-1999 headers in short and long form, IEEE 488.2 common commands, an error
/// queue. Subclasses register headers such as "[SOURce:]VOLTage[:LEVel]".
class ScpiServer : public QObject {
    Q_OBJECT
  public:
    ScpiServer(QString identity, QObject* parent);
    bool listen(); ///< loopback only, any free port
    /// Answers on a serial line as well; its path, or empty where there is none.
    QString listenOnSerial();
    quint16 port() const { return m_server.serverPort(); }
    /// Cuts all connections and takes no more until allowed again: a pulled cable.
    void setPlugged(bool plugged);
    /// Reads but never answers: an instrument that hangs.
    void setDeaf(bool deaf) { m_deaf = deaf; }
    /// Sends lines that nobody asked for, without pause.
    void setTalking(bool talks);
    /// As if it had come over a connection: a hand at the front panel.
    void press(const QString& command) { execute(command); }

  protected:
    using Arguments = QStringList;
    /// The answer to a query; empty for a command. Errors are pushed by the handler.
    using Handler = std::function<QString(const Arguments&)>;
    void on(const QString& pattern, Handler handler);
    void pushError(int code, const QString& text);
    bool number(const Arguments& arguments, double low, double high, double& value);
    bool boolean(const Arguments& arguments, bool& value);
    virtual void reset() = 0;
    /// Called before each command: time has gone on.
    std::function<void()> m_before = [] {};

  private:
    struct Command {
        QString pattern;
        bool query;
        Handler handler;
    };
    void accept();
    using Reply = std::function<void(const QByteArray&)>;
    void takeLine(const QByteArray& line, const Reply& reply);
    QString execute(const QString& message);
    void addCommon();
    static bool matches(const QString& pattern, const QString& header);

    QString m_identity;
    // Before the server: its sockets tell of their end while it is destroyed.
    QList<QTcpSocket*> m_sockets;
    QTcpServer m_server;
    std::unique_ptr<SerialLine> m_serial;
    std::vector<Command> m_commands;
    std::deque<QString> m_errors;
    QTimer m_talk;
    int m_eventStatus = 0, m_eventEnable = 0, m_requestEnable = 0;
    bool m_deaf = false, m_plugged = true;
};

} // namespace ustor::standin
