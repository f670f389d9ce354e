#pragma once

#include "bench/meter.h"
#include "bench/scpi_connection.h"

namespace ustor {

/// A meter that speaks SCPI (MEASure:RESistance?, DIODe?, CONTinuity?, VOLTage?; 9.9E37 is over range,
/// SCPI-1999), or what its profile says.
class ScpiMeter : public Meter {
    Q_OBJECT
  public:
    explicit ScpiMeter(QObject* parent = nullptr);
    void open(const InstrumentAddress& address, const InstrumentProfile& profile = {});
    void read(MeterMode mode) override;
    bool isConnected() const override { return m_connection.isOpen(); }

  private:
    ScpiConnection m_connection;
};

} // namespace ustor
