#include "session/practice/hands.h"

#include <QJsonArray>
#include <QJsonDocument>
#include <utility>

namespace ustor {
namespace {
constexpr int patience_ms = 15000; // only a bench that died is silent for so long
QString text(const std::string& s) {
    return QString::fromStdString(s);
}
} // namespace

Hands::Hands() {
    QObject::connect(&m_socket, &QTcpSocket::readyRead, &m_socket, [this] { take(); });
    QObject::connect(&m_socket, &QTcpSocket::disconnected, &m_socket,
                     [this] { giveUp(say("the simulated bench went away")); });
}

Hands::~Hands() {
    // Nobody is there any more to hear that the socket closes.
    m_socket.disconnect();
}

Outcome Hands::open(const SocketAddress& control) {
    m_socket.connectToHost(control.host, control.port);
    if (!m_socket.waitForConnected(patience_ms))
        return Error{say("the simulated bench has no control socket here"), control.text().toStdString(), {}};
    return Done{};
}

void Hands::reach(const SocketAddress& control, const std::function<void(const Error&)>& failed) {
    QObject::connect(&m_socket, &QTcpSocket::connected, &m_socket,
                     [this] { m_socket.write(std::exchange(m_unsent, {})); });
    QObject::connect(&m_socket, &QTcpSocket::errorOccurred, &m_socket, [this, control, failed] {
        if (m_socket.state() != QAbstractSocket::UnconnectedState) return; // heard as its disconnecting
        m_unsent.clear();
        giveUp(say("the simulated bench has no control socket here"));
        failed({say("the simulated bench has no control socket here"), control.text().toStdString(), {}});
    });
    m_socket.connectToHost(control.host, control.port);
}

void Hands::send(const QJsonObject& request, Answered then) {
    if (!then) then = [](const Result<QJsonObject>&) {};
    const auto state = m_socket.state();
    const bool comes = state == QAbstractSocket::HostLookupState || state == QAbstractSocket::ConnectingState;
    if (!isOpen() && !comes)
        return then(Error{say("the simulated bench is not there"), "control socket", {}});
    m_waiting.push_back(std::move(then));
    const QByteArray line = QJsonDocument(request).toJson(QJsonDocument::Compact) + '\n';
    if (comes)
        m_unsent += line;
    else
        m_socket.write(line);
}

void Hands::take() {
    while (m_socket.canReadLine() && !m_waiting.empty()) {
        const QJsonObject answer = QJsonDocument::fromJson(m_socket.readLine()).object();
        const Answered then = std::move(m_waiting.front());
        m_waiting.pop_front();
        if (answer["ok"].toBool())
            then(answer);
        else
            then(Error{verbatim(answer["error"].toString("refused")), "simulated bench", {}});
    }
}

void Hands::giveUp(const Message& why) {
    for (const Answered& then : std::exchange(m_waiting, {}))
        then(Error{why, "control socket", {}});
}

Result<QJsonObject> Hands::ask(const QJsonObject& request) {
    Result<QJsonObject> answer = Error{say("the simulated bench does not answer"), "control socket", {}};
    bool answered = false;
    send(request, [&](const Result<QJsonObject>& a) {
        answer = a;
        answered = true;
    });
    while (!answered && m_socket.waitForReadyRead(patience_ms))
        take();
    if (!answered) m_socket.abort(); // a late answer must not be taken for the next one's
    return answer;
}

Outcome Hands::done(const QJsonObject& request) {
    const auto answer = ask(request);
    return answer ? Outcome(Done{}) : Outcome(answer.error());
}

QJsonObject Hands::probesTouch(const std::string& red, const std::string& black) {
    return {{"do", "probes"}, {"red", text(red)}, {"black", text(black)}};
}
QJsonObject Hands::leadsOn(const std::string& plus, const std::string& minus) {
    return {{"do", "leads"}, {"plus", text(plus)}, {"minus", text(minus)}};
}
QJsonObject Hands::boardTurned(Side side) {
    return {{"do", "turn"}, {"side", side == Side::Top ? "top" : "bottom"}};
}

Outcome Hands::leads(const std::string& plus, const std::string& minus) {
    return done(leadsOn(plus, minus));
}
Outcome Hands::probes(const std::string& red, const std::string& black) {
    return done(probesTouch(red, black));
}
Outcome Hands::turn(Side side) {
    return done(boardTurned(side));
}
Result<QJsonObject> Hands::reveal() {
    return ask({{"do", "reveal"}});
}

QJsonObject Hands::whereSeen(BoardPoint p) {
    return {{"do", "pixel"}, {"board_mm", QJsonArray{p.x_mm, p.y_mm}}};
}

PixelPoint Hands::pixelIn(const QJsonObject& answer) {
    const auto at = answer["image_px"].toArray();
    return {at.at(0).toDouble(), at.at(1).toDouble()};
}

Result<PixelPoint> Hands::pixelOf(BoardPoint p) {
    const auto answer = ask(whereSeen(p));
    if (!answer) return answer.error();
    return pixelIn(answer.value());
}

void Hands::follow(const FactBody& body) {
    // A part the board does not know is the person's slip, shown elsewhere: the simulated board stays as it
    // is.
    if (const auto* f = std::get_if<Lifted>(&body))
        send({{"do", "lift"}, {"part", text(f->part)}});
    else if (const auto* r = std::get_if<Refitted>(&body))
        send({{"do", r->replaced ? "replace" : "refit"}, {"part", text(r->part)}});
}

} // namespace ustor
