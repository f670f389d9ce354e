#pragma once

#include "standin/scpi_server.h"
#include "standin/world.h"

namespace ustor::standin {

/// A multimeter: volts, ohms, diode test, continuity, by CONFigure and READ? or MEASure.
class MeterServer : public ScpiServer {
    Q_OBJECT
  public:
    MeterServer(World& world, std::function<void()> catchUp, QObject* parent);

  protected:
    void reset() override { m_mode = MeterMode::Volts; }

  private:
    QString read();
    World& m_world;
    MeterMode m_mode = MeterMode::Volts;
};

} // namespace ustor::standin
