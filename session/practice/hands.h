#pragma once

#include "base/points.h"
#include "base/result.h"
#include "bench/instrument_address.h"
#include "board/board.h"
#include "diagnosis/fact/fact.h"

#include <QJsonObject>
#include <QTcpSocket>
#include <deque>
#include <functional>
#include <string>

namespace ustor {

/// Plays the technician's hands on a simulated bench through its control socket. What is sent is answered in
/// order. `reach` and `send` return at once, for the window; all other calls wait for the answer, for walks
/// and tests.
class Hands {
  public:
    using Answered = std::function<void(const Result<QJsonObject>&)>;
    Hands();
    ~Hands();
    Outcome open(const SocketAddress& control);
    /// The same without waiting; what is sent meanwhile is kept. `failed` is called where nobody is there.
    void reach(const SocketAddress& control, const std::function<void(const Error&)>& failed);
    bool isOpen() const { return m_socket.state() == QAbstractSocket::ConnectedState; }

    void send(const QJsonObject& request, Answered then = {});
    static QJsonObject probesTouch(const std::string& red, const std::string& black);
    static QJsonObject leadsOn(const std::string& plus, const std::string& minus);
    static QJsonObject boardTurned(Side side);
    static QJsonObject whereSeen(BoardPoint p); ///< answered with "image_px"
    static PixelPoint pixelIn(const QJsonObject& answer);

    Outcome leads(const std::string& plus, const std::string& minus);
    Outcome probes(const std::string& red, const std::string& black);
    Outcome turn(Side side);
    Result<PixelPoint> pixelOf(BoardPoint p);
    /// What was hidden: only for the end of an exercise.
    Result<QJsonObject> reveal();
    Result<QJsonObject> ask(const QJsonObject& request);

    /// What a fact says was done with hands is done on the simulated board too, without waiting; other facts
    /// do nothing.
    void follow(const FactBody& body);

  private:
    Outcome done(const QJsonObject& request);
    void take();
    void giveUp(const Message& why);

    std::deque<Answered> m_waiting; ///< one for each request that has no answer yet
    QByteArray m_unsent;            ///< asked for before the socket was connected
    QTcpSocket m_socket;
};

} // namespace ustor
