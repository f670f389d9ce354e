#pragma once

#include "base/points.h"
#include "base/result.h"
#include "bench/bench_address.h"
#include "board/board.h"
#include "diagnosis/fact.h"

#include <QJsonObject>
#include <QTcpSocket>
#include <string>

namespace ustor {

/// Plays the technician's hands on a simulated bench through its control socket. Loopback and a few bytes:
/// each call waits for the answer, at most a second.
class Hands {
  public:
    Outcome open(const SocketAddress& control);
    bool isOpen() const { return m_socket.state() == QAbstractSocket::ConnectedState; }

    Outcome leads(const std::string& plus, const std::string& minus);
    Outcome leadsOff();
    Outcome probes(const std::string& red, const std::string& black);
    Outcome lift(const std::string& part);
    Outcome refit(const std::string& part, bool newPart);
    Outcome turn(Side side);
    Result<PixelPoint> pixelOf(BoardPoint p);
    /// What was hidden: only for the end of an exercise.
    Result<QJsonObject> reveal();
    Result<QJsonObject> ask(const QJsonObject& request);

    /// What a fact says was done with hands is done on the simulated board too; other facts do nothing.
    void follow(const FactBody& body);

  private:
    Outcome done(const QJsonObject& request);
    QTcpSocket m_socket;
};

} // namespace ustor
