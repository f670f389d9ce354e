#include "standin/standin.h"

#include <QJsonArray>

namespace ustor::standin {

StandIn::StandIn(const Board& board, const Setup& setup, double speed, QObject* parent)
    : QObject(parent), m_world(board, setup), m_speed(speed), m_supply(
                                                                  m_world, [this] { catchUp(); }, this),
      m_meter(
          m_world, [this] { catchUp(); }, this),
      m_camera(this), m_control([this](const QJsonObject& request) { return control(request); }, this) {
    m_clock.start();
    connect(&m_timer, &QTimer::timeout, this, &StandIn::tick);
    m_timer.setTimerType(Qt::PreciseTimer);
    m_timer.start(std::max(2, static_cast<int>(10 / speed)));
}

bool StandIn::listen() {
    return m_supply.listen() && m_meter.listen() && m_camera.listen() && m_control.listen();
}

QJsonObject StandIn::ready() const {
    return {{"format", "ustor-standin/1"},
            {"ready", true},
            {"supply", m_supply.port()},
            {"meter", m_meter.port()},
            {"camera", m_camera.port()},
            {"control", m_control.port()},
            {"speed", m_speed}};
}

void StandIn::catchUp() {
    const double now_s = static_cast<double>(m_clock.nsecsElapsed()) * 1e-9;
    // A machine that was asleep or overloaded is not caught up with in one go.
    constexpr double most_s = 0.2;
    const double due_s = std::min(now_s - m_wall_s, most_s) * m_speed;
    m_wall_s = now_s;
    const double until_s = m_world.time_s() + due_s;
    while (m_nextFrame_s <= until_s) {
        m_world.advance(std::max(0.0, m_nextFrame_s - m_world.time_s()));
        if (m_camera.hasListener()) m_camera.send(m_world.picture(), m_world.time_s());
        m_nextFrame_s += 1 / CameraModel::frameRate_hz;
    }
    m_world.advance(until_s - m_world.time_s());
}

void StandIn::tick() {
    catchUp();
}

QJsonObject StandIn::control(const QJsonObject& request) {
    catchUp();
    const QString what = request["do"].toString();
    const auto text = [&request](const char* name) { return request[name].toString().toStdString(); };
    const auto answer = [](bool ok, const char* error) {
        return ok ? QJsonObject{{"ok", true}} : QJsonObject{{"ok", false}, {"error", error}};
    };
    if (what == "leads")
        return answer(m_world.attachLeads(text("plus"), text("minus")), "no such place on the board");
    if (what == "leads off") return m_world.detachLeads(), answer(true, "");
    if (what == "probes")
        return answer(m_world.touchProbes(text("red"), text("black")), "no such place on the board");
    if (what == "probes off") return m_world.liftProbes(), answer(true, "");
    if (what == "lift") return answer(m_world.lift(text("part")), "no such part on the board");
    if (what == "refit") return answer(m_world.refit(text("part"), false), "no such part on the board");
    if (what == "replace") return answer(m_world.refit(text("part"), true), "no such part on the board");
    if (what == "turn")
        return m_world.turnBoard(request["side"].toString() == "bottom" ? Side::Bottom : Side::Top),
               answer(true, "");
    if (what == "unplug" || what == "plug") {
        const bool plugged = what == "plug";
        const QString which = request["what"].toString();
        if (which == "supply")
            m_supply.setPlugged(plugged);
        else if (which == "meter")
            m_meter.setPlugged(plugged);
        else if (which == "camera")
            m_camera.setPlugged(plugged);
        else
            return answer(false, "what must be supply, meter or camera");
        return answer(true, "");
    }
    if (what == "deaf") return m_supply.setDeaf(request["on"].toBool()), answer(true, "");
    if (what == "pixel") {
        const auto at = request["board_mm"].toArray();
        const PixelPoint p = m_world.pixelOf({at.at(0).toDouble(), at.at(1).toDouble()});
        return {{"ok", true}, {"image_px", QJsonArray{p.x_px, p.y_px}}};
    }
    if (what == "state")
        return {{"ok", true},
                {"time_s", m_world.time_s()},
                {"output", m_world.supply.output},
                {"volts", m_world.terminalVolts()},
                {"amps", m_world.terminalAmps()},
                {"set_volts", m_world.supply.volts},
                {"set_amps", m_world.supply.amps},
                {"over_volts", m_world.supply.overVolts},
                {"tripped", m_world.supply.tripped},
                {"side", m_world.facing() == Side::Top ? "top" : "bottom"}};
    if (what == "reveal")
        return {{"ok", true},
                {"part", QString::fromStdString(m_world.fault().part)},
                {"net", QString::fromStdString(m_world.fault().net)},
                {"ohms", m_world.fault().ohms}};
    return answer(false, "not something the hands can do");
}

} // namespace ustor::standin
