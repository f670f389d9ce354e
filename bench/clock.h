#pragma once

namespace ustor {

/// Seconds of the machine's monotonic clock, the same in every process of this machine. Bench drivers stamp
/// with it; nothing in the core ever reads it.
double hostSeconds();

} // namespace ustor
