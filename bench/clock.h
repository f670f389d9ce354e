#pragma once

namespace ustor {

/// Seconds since this machine was started, time asleep included (CLOCK_BOOTTIME): the same in every process
/// of this machine, and a machine that was suspended has been silent as long as the wall says. Bench drivers
/// stamp with it; nothing in the core ever reads it.
double hostSeconds();

} // namespace ustor
