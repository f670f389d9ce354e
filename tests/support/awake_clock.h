#pragma once

#include <atomic>
#include <thread>

namespace ustor::testing {

/// The milliseconds in which this process could run, for promises about its own work: counted by a thread
/// that sleeps a moment at a time. Where the whole process stands still (a machine that had no time for it)
/// it stands still too; where only the thread that is asked blocks, it goes on.
class AwakeClock {
  public:
    AwakeClock();
    ~AwakeClock();
    AwakeClock(const AwakeClock&) = delete;
    AwakeClock& operator=(const AwakeClock&) = delete;
    /// Since it was made.
    int elapsed_ms() const { return m_elapsed_us / 1000; }

  private:
    void count();
    std::atomic<int> m_elapsed_us = 0;
    std::atomic<bool> m_ends = false;
    std::thread m_thread;
};

} // namespace ustor::testing
