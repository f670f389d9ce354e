#include "standin/supply_server.h"

namespace ustor::standin {

SupplyServer::SupplyServer(World& world, std::function<void()> catchUp, QObject* parent)
    : ScpiServer("INVENTED,STAND-IN SUPPLY 30V5A,0,1.0", parent), m_world(world) {
    m_before = std::move(catchUp);
    addLimits();
    addOutput();
}

void SupplyServer::reset() {
    const bool on = m_world.supply.stuck && m_world.supply.output;
    m_world.supply = World::Supply();
    m_world.supply.stuck = m_world.supply.output = on;
    m_world.settle();
}

QString SupplyServer::value(double v) {
    return QString::number(v, 'f', 6);
}

void SupplyServer::addLimits() {
    const auto setting = [this](const QString& pattern, double World::Supply::*member, double most) {
        on(pattern, [this, member, most](const Arguments& a) {
            if (double v = 0; number(a, 0, most, v)) {
                m_world.supply.*member = v;
                m_world.settle();
            }
            return QString();
        });
        on(pattern + "?", [this, member](const Arguments&) { return value(m_world.supply.*member); });
    };
    setting("[SOURce:]VOLTage[:LEVel]", &World::Supply::volts, 30.0);
    setting("[SOURce:]CURRent[:LEVel]", &World::Supply::amps, 5.0);
    setting("[SOURce:]VOLTage:PROTection", &World::Supply::overVolts, 31.0);
    setting("[SOURce:]CURRent:PROTection", &World::Supply::overAmps, 5.5);
    on("[SOURce:]VOLTage:PROTection:TRIPped?",
       [this](const Arguments&) { return QString(m_world.supply.tripped ? "1" : "0"); });
    on("[SOURce:]VOLTage:PROTection:CLEar", [this](const Arguments&) {
        m_world.supply.tripped = false;
        return QString();
    });
}

void SupplyServer::addOutput() {
    on("OUTPut[:STATe]", [this](const Arguments& a) {
        if (bool wanted = false; boolean(a, wanted)) {
            if (wanted && m_world.supply.tripped) pushError(-221, "Settings conflict");
            m_world.setOutput(wanted);
        }
        return QString();
    });
    on("OUTPut:LIMit:TIMe", [this](const Arguments& a) {
        constexpr double most_s = 3600;
        (void)number(a, 0, most_s, m_world.supply.longestOn_s);
        return QString();
    });
    on("OUTPut:LIMit:TIMe?", [this](const Arguments&) { return value(m_world.supply.longestOn_s); });
    on("OUTPut[:STATe]?", [this](const Arguments&) { return QString(m_world.supply.output ? "1" : "0"); });
    on("MEASure[:SCALar]:VOLTage[:DC]?",
       [this](const Arguments&) { return value(m_world.terminalVolts() + 2e-4 * m_random.normal()); });
    on("MEASure[:SCALar]:CURRent[:DC]?",
       [this](const Arguments&) { return value(m_world.terminalAmps() + 1e-4 * m_random.normal()); });
}

} // namespace ustor::standin
