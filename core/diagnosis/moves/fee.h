#pragma once

namespace ustor {

/// How a job pays, in money of any kind.
struct Fee {
    double whenFixed = 120, whenNot = 0; ///< the second: a bench fee for the look
    double hourly = 60;                  ///< what an hour at the bench is worth
    /// What going on promises beyond stopping now: the fee with its odds, less the minutes. What was spent
    /// already does not count.
    double worthOfGoingOn(double repairable, double minutes) const {
        return (whenFixed - whenNot) * repairable - hourly * minutes / 60;
    }
};

} // namespace ustor
