#include "session/practice/hands.h"

#include <QJsonArray>
#include <QJsonDocument>

namespace ustor {
namespace {
constexpr int patience_ms = 1000;
QString text(const std::string& s) {
    return QString::fromStdString(s);
}
} // namespace

Outcome Hands::open(const SocketAddress& control) {
    m_socket.connectToHost(control.host, control.port);
    if (!m_socket.waitForConnected(patience_ms))
        return Error{"the simulated bench has no control socket here", control.text().toStdString(), ""};
    return Done{};
}

Result<QJsonObject> Hands::ask(const QJsonObject& request) {
    m_socket.write(QJsonDocument(request).toJson(QJsonDocument::Compact) + '\n');
    while (!m_socket.canReadLine())
        if (!m_socket.waitForReadyRead(patience_ms))
            return Error{"the simulated bench does not answer", "control socket", ""};
    const QJsonObject answer = QJsonDocument::fromJson(m_socket.readLine()).object();
    if (!answer["ok"].toBool())
        return Error{answer["error"].toString("refused").toStdString(), "simulated bench", ""};
    return answer;
}

Outcome Hands::done(const QJsonObject& request) {
    const auto answer = ask(request);
    return answer ? Outcome(Done{}) : Outcome(answer.error());
}

Outcome Hands::leads(const std::string& plus, const std::string& minus) {
    return done({{"do", "leads"}, {"plus", text(plus)}, {"minus", text(minus)}});
}
Outcome Hands::leadsOff() {
    return done({{"do", "leads off"}});
}
Outcome Hands::probes(const std::string& red, const std::string& black) {
    return done({{"do", "probes"}, {"red", text(red)}, {"black", text(black)}});
}
Outcome Hands::lift(const std::string& part) {
    return done({{"do", "lift"}, {"part", text(part)}});
}
Outcome Hands::refit(const std::string& part, bool newPart) {
    return done({{"do", newPart ? "replace" : "refit"}, {"part", text(part)}});
}
Outcome Hands::turn(Side side) {
    return done({{"do", "turn"}, {"side", side == Side::Top ? "top" : "bottom"}});
}
Result<QJsonObject> Hands::reveal() {
    return ask({{"do", "reveal"}});
}

Result<PixelPoint> Hands::pixelOf(BoardPoint p) {
    const auto answer = ask({{"do", "pixel"}, {"board_mm", QJsonArray{p.x_mm, p.y_mm}}});
    if (!answer) return answer.error();
    const auto at = answer.value()["image_px"].toArray();
    return PixelPoint{at.at(0).toDouble(), at.at(1).toDouble()};
}

void Hands::follow(const FactBody& body) {
    // A part the board does not know is the person's slip, shown elsewhere: the simulated board stays as it
    // is.
    if (const auto* f = std::get_if<Lifted>(&body))
        static_cast<void>(lift(f->part));
    else if (const auto* r = std::get_if<Refitted>(&body))
        static_cast<void>(refit(r->part, r->replaced));
}

} // namespace ustor
