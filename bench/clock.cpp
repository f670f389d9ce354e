#include "bench/clock.h"

#include <chrono>

namespace ustor {

double hostSeconds() {
    return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

} // namespace ustor
