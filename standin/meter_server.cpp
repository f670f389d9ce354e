#include "standin/meter_server.h"

namespace ustor::standin {

MeterServer::MeterServer(World& world, std::function<void()> catchUp, QObject* parent)
    : ScpiServer("INVENTED,STAND-IN METER,0,1.0", parent), m_world(world) {
    m_before = std::move(catchUp);
    const auto mode = [this](const QString& node, MeterMode m) {
        on("CONFigure:" + node, [this, m](const Arguments&) {
            m_mode = m;
            return QString();
        });
        on("MEASure:" + node + "?", [this, m](const Arguments&) {
            m_mode = m;
            return read();
        });
    };
    mode("VOLTage[:DC]", MeterMode::Volts);
    mode("RESistance", MeterMode::Ohms);
    mode("DIODe", MeterMode::Diode);
    mode("CONTinuity", MeterMode::Beep);
    on("READ?", [this](const Arguments&) { return read(); });
}

QString MeterServer::read() {
    // SCPI's own number for overload, which is also what open probes show in all modes but volts.
    const QString overload = "9.9E37";
    const auto reading = m_world.measure(m_mode);
    if (!reading) return m_mode == MeterMode::Volts ? QString("0.000000") : overload;
    return reading->state == ReadingState::OverRange ? overload : QString::number(reading->value, 'g', 8);
}

} // namespace ustor::standin
