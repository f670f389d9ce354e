#pragma once

namespace ustor {

/// What the supply said at one instant, on the supply's clock.
struct SupplySample {
    double time_s = 0;
    bool output = false;
    double setVolts = 0, setAmps = 0; ///< limits, as read back where the supply tells them
    double volts = 0, amps = 0;       ///< read back: what was delivered
    double watts() const { return output ? volts * amps : 0; }
};

} // namespace ustor
