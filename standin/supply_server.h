#pragma once

#include "standin/scpi_server.h"
#include "standin/world.h"

namespace ustor::standin {

/// A one-channel bench supply, 30 V and 5 A, with over-voltage and over-current protection and readback.
class SupplyServer : public ScpiServer {
    Q_OBJECT
  public:
    SupplyServer(World& world, std::function<void()> catchUp, QObject* parent);

  protected:
    void reset() override;

  private:
    void addLimits();
    void addOutput();
    QString value(double v);
    World& m_world;
    Random m_random{7};
};

} // namespace ustor::standin
