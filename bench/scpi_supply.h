#pragma once

#include "bench/scpi_connection.h"
#include "bench/supply.h"

namespace ustor {

/// One channel of a supply that speaks SCPI, or what its profile says. Only the guard should own one. The
/// output is switched off when the connection comes up, whatever was before.
class ScpiSupply : public Supply {
    Q_OBJECT
  public:
    explicit ScpiSupply(QObject* parent = nullptr);
    /// The address' channel is the one that is driven; others of the instrument are left alone.
    void open(const InstrumentAddress& address, const InstrumentProfile& profile = {});
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
    QString filled(QString command, double value = 0) const;
    void select();
    void checked(const QString& command, const QString& ask = {}, double wanted = 0);
    void compare(const QString& command, const QString& ask, double wanted);

    ScpiConnection m_connection;
    int m_channel = 1;
    QTimer m_poll;
    SupplySample m_sample;
    bool m_ampsRead = false; ///< in this poll
};

} // namespace ustor
