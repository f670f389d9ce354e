#pragma once

namespace ustor {

/// Brings a device's own clock to the host's: the offset is the least that any message took to arrive, so
/// that waiting in queues does not count. Settles within some tens of messages; fixed from then on, for a
/// jump would tear the model.
class ClockMatch {
  public:
    /// A message stamped by the device and its arrival, both in seconds of bench time. Returns the stamp on
    /// the host's clock.
    double toHost(double stamp_s, double arrival_s);
    bool settled() const { return m_count >= settleCount; }

  private:
    static constexpr int settleCount = 20;
    int m_count = 0;
    double m_offset_s = 0;
};

} // namespace ustor
