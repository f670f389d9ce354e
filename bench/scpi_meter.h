#pragma once

#include "bench/meter.h"
#include "bench/scpi_connection.h"

#include <optional>

namespace ustor {

/// A meter that speaks SCPI (MEASure:RESistance?, DIODe?, CONTinuity?, VOLTage?; 9.9E37 is over range,
/// SCPI-1999), or what its profile says.
class ScpiMeter : public Meter {
    Q_OBJECT
  public:
    explicit ScpiMeter(QObject* parent = nullptr);
    /// `patience`: how many times longer than its profile says it may be silent; above 1 for simulated
    /// benches.
    void open(const InstrumentAddress& address, const InstrumentProfile& profile = {}, double patience = 1);
    void read(MeterMode mode) override;
    bool isConnected() const override { return m_connection.isOpen(); }
    bool isReading() const override { return m_asked.has_value(); }

  private:
    void ask(MeterMode mode);
    void tell(MeterMode mode, const Result<QString>& answer);

    ScpiConnection m_connection;
    std::optional<MeterMode> m_asked; ///< and not answered yet
    std::optional<MeterMode> m_next;  ///< what is wanted instead, as soon as it is
};

} // namespace ustor
