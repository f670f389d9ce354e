#pragma once

#include "bench/scpi_connection.h"
#include "bench/supply.h"

namespace ustor {

/// A one-channel supply that speaks SCPI. Only the guard should own one. The output is switched off when the
/// connection comes up, whatever was before.
class ScpiSupply : public Supply {
    Q_OBJECT
  public:
    explicit ScpiSupply(QObject* parent = nullptr);
    void open(const SocketAddress& address);
    void close() { m_connection.close(); }

    void setLimits(Volts volts, Amps amps, Volts overVoltage) override;
    void switchOn() override;
    void switchOff() override;
    bool isConnected() const override { return m_connection.isOpen(); }
    void setPollInterval(int milliseconds) { m_poll.setInterval(milliseconds); }
    /// Without an answer for so long the link counts as lost.
    void setTimeout(int milliseconds) { m_connection.setTimeout(milliseconds); }
    /// Asks whether the output is off now.
    void confirmOff(std::function<void(bool off)> answer);

  private:
    void greet();
    void poll();
    void checked(const QString& command);

    ScpiConnection m_connection;
    QTimer m_poll;
    SupplySample m_sample;
};

} // namespace ustor
