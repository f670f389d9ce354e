#include "support/awake_clock.h"

#include <algorithm>
#include <chrono>

namespace ustor::testing {

AwakeClock::AwakeClock() : m_thread([this] { count(); }) {}

AwakeClock::~AwakeClock() {
    m_ends = true;
    m_thread.join();
}

void AwakeClock::count() {
    using namespace std::chrono;
    constexpr microseconds moment(2000), most(5000);
    for (auto last = steady_clock::now(); !m_ends;) {
        std::this_thread::sleep_for(moment);
        const auto now = steady_clock::now();
        m_elapsed_us += static_cast<int>(std::min(duration_cast<microseconds>(now - last), most).count());
        last = now;
    }
}

} // namespace ustor::testing
