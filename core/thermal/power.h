#pragma once

#include "thermal/recording.h"

#include <vector>

namespace ustor {

/// Power in W delivered at a time on the frames' clock: linear between readings, zero outside of them.
/// `offset_s` is what the supply's clock is ahead of the frames'.
double deliveredPower_w(const std::vector<SupplySample>& supply, double time_s, double offset_s = 0);

/// Times (supply's clock) at which the delivered power rose from nothing: the middle between the two
/// readings.
std::vector<double> switchOns(const std::vector<SupplySample>& supply);

/// Mean power in W while the output was on; 0 when it never was.
double meanOnPower_w(const std::vector<SupplySample>& supply);

} // namespace ustor
