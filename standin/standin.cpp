#include "standin/standin.h"

#include <QJsonArray>

namespace ustor::standin {

namespace {

/// How many times faster than the wall a world can go on here, with the other core's worth of work left to
/// others.
double speedHeld(const Board& board, const Setup& setup) {
    World world(board, setup);
    constexpr double share = 0.35, trial_s = 0.2;
    constexpr int trials = 3;
    double quickest_s = 1e9;
    QElapsedTimer clock;
    for (int i = 0; i < trials; ++i) {
        clock.start();
        for (double t = 0; t < trial_s; t += 1 / CameraModel::frameRate_hz) {
            world.advance(1 / CameraModel::frameRate_hz);
            world.picture();
        }
        quickest_s = std::min(quickest_s, static_cast<double>(clock.nsecsElapsed()) * 1e-9);
    }
    return share * trial_s / quickest_s;
}

} // namespace

StandIn::StandIn(const Board& board, const Setup& setup, double speed, double patience, QObject* parent)
    : QObject(parent), m_world(board, setup), m_speed(std::min(speed, speedHeld(board, setup))),
      m_patience(patience), m_supply(
                                m_world, [this] { catchUp(); }, this),
      m_meter(
          m_world, [this] { catchUp(); }, this),
      m_camera({CameraModel::width, CameraModel::height, CameraModel::frameRate_hz, CameraModel::netd_mk,
                CameraModel::ambient_c},
               this),
      m_control([this](const QJsonObject& request) { return control(request); }, this) {
    m_clock.start();
    connect(&m_timer, &QTimer::timeout, this, &StandIn::tick);
    m_timer.setTimerType(Qt::PreciseTimer);
    m_timer.start(std::max(2, static_cast<int>(10 / m_speed)));
}

bool StandIn::listen() {
    return m_supply.listen() && m_meter.listen() && m_camera.listen() && m_control.listen();
}

bool StandIn::listenOnSerial() {
    m_supplySerial = m_supply.listenOnSerial();
    m_meterSerial = m_meter.listenOnSerial();
    return !m_supplySerial.isEmpty() && !m_meterSerial.isEmpty();
}

QJsonObject StandIn::ready() const {
    QJsonObject line{{"format", "ustor-standin/1"},
                     {"ready", true},
                     {"supply", m_supply.port()},
                     {"meter", m_meter.port()},
                     {"camera", m_camera.port()},
                     {"control", m_control.port()},
                     {"speed", m_speed},
                     {"patience", m_patience}};
    if (!m_supplySerial.isEmpty()) line["supply_serial"] = m_supplySerial;
    if (!m_meterSerial.isEmpty()) line["meter_serial"] = m_meterSerial;
    return line;
}

void StandIn::catchUp() {
    const double now_s = static_cast<double>(m_clock.nsecsElapsed()) * 1e-9;
    // A machine that was asleep or overloaded is not caught up with in one go, and who asks is answered soon.
    constexpr double most_s = 0.2;
    constexpr qint64 longestTurn_ns = 25'000'000;
    const qint64 begin_ns = m_clock.nsecsElapsed();
    const double due_s = std::min(now_s - m_wall_s, most_s) * m_speed;
    m_wall_s = now_s;
    const double until_s = m_world.time_s() + due_s;
    while (m_nextFrame_s <= until_s) {
        if (m_clock.nsecsElapsed() - begin_ns > longestTurn_ns) return;
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
    if (what == "stuck") return m_world.supply.stuck = request["on"].toBool(), answer(true, "");
    if (what == "talk") return m_supply.setTalking(request["on"].toBool()), answer(true, "");
    if (what == "panel") return m_supply.press(request["command"].toString()), answer(true, "");
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
