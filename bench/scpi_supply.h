#pragma once

#include "bench/scpi_connection.h"
#include "bench/supply.h"

#include <optional>

namespace ustor {

/// One channel of a supply that speaks SCPI, or what its profile says. Only the guard should own one. The
/// output is switched off when the connection comes up, whatever was before. It comes on only on limits that
/// were taken and read back since, and are read back once more right before.
class ScpiSupply : public Supply {
    Q_OBJECT
  public:
    explicit ScpiSupply(QObject* parent = nullptr);
    /// The address' channel is the one that is driven; others of the instrument are left alone.
    void open(const InstrumentAddress& address, const InstrumentProfile& profile = {});
    void close() { m_connection.close(); }

    void setLimits(Volts volts, Amps amps, Volts overVoltage, double longestOn_s = 0) override;
    void switchOn() override;
    void switchOff() override;
    bool isConnected() const override { return m_connection.isOpen(); }
    bool nobodyListens() const { return m_connection.nobodyListens(); }
    /// Limits were taken and read back since the connection came up.
    bool limitsHeld() const { return m_state == Limits::Held; }
    void setPollInterval(int milliseconds) { m_poll.setInterval(milliseconds); }
    /// Without an answer for so long the link counts as lost.
    void setTimeout(int milliseconds) { m_connection.setTimeout(milliseconds); }
    /// Asks whether the output is off now.
    void confirmOff(std::function<void(bool off)> answer);

  signals:
    /// Other limits than were set, or another channel: somebody's hand, or a reset.
    void limitsChanged(const ustor::Message& what);

  private:
    enum class Limits { None, Asked, Held };
    struct Wanted {
        double volts = 0, amps = 0, trip = 0, longestOn_s = 0;
    };
    void greet();
    void poll();
    QString filled(QString command, double value = 0) const;
    void select();
    void refuse(const Message& why);
    void checked(const QString& command);
    void set();
    /// Asks for all limits; `then` hears of the first that is not as wanted, or nothing where all are.
    void compare(std::function<void(const Message& difference)> then);
    void askOne(const QString& ask, double wanted, bool isTrip,
                const std::function<void(const Message& difference, double value)>& then);
    void comeOn();

    ScpiConnection m_connection;
    int m_channel = 1;
    QTimer m_poll;
    SupplySample m_sample;
    Limits m_state = Limits::None;
    Wanted m_limits;
    bool m_onWanted = false; ///< asked to come on and not off since
    bool m_ampsRead = false; ///< in this poll
    bool m_fresh = false;    ///< the sample is whole and not told yet
};

} // namespace ustor
