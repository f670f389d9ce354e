#pragma once

#include <ctime>

namespace ustor {

/// Processor time that a clock has counted, s: CLOCK_THREAD_CPUTIME_ID of this thread, whatever else the
/// machine was doing, CLOCK_PROCESS_CPUTIME_ID of all threads.
inline double processorTime_s(clockid_t clock) {
    timespec t{};
    clock_gettime(clock, &t);
    return static_cast<double>(t.tv_sec) + static_cast<double>(t.tv_nsec) * 1e-9;
}

} // namespace ustor
