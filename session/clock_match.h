#pragma once

#include <deque>

namespace ustor {

/// Brings a device's own clock to the host's: the offset is the least that any message of the last seconds
/// took to arrive, so that waiting in queues does not count. It follows a clock that runs a little fast or
/// slow without a jump, and one that stood still or was set anew with one: what comes out never goes back.
class ClockMatch {
  public:
    /// `speed`: bench seconds in one of the host's; queues and standstills are a matter of the host.
    explicit ClockMatch(double speed = 1) : m_speed(speed) {}
    /// A message stamped by the device and its arrival, both in seconds of bench time. Returns the stamp on
    /// the host's clock.
    double toHost(double stamp_s, double arrival_s);
    bool settled() const { return m_count >= settleCount; }

  private:
    void restart(double offset_s);
    void follow(double offset_s, double arrival_s);

    static constexpr int settleCount = 20;
    double m_speed;
    int m_count = 0;
    double m_offset_s = 0, m_lastStamp_s = 0, m_last_s = 0;
    double m_blockStart_s = 0, m_blockLeast_s = 0;
    std::deque<double> m_least_s; ///< least offsets of the last whole blocks, newest last
};

} // namespace ustor
