#pragma once

#include <malloc.h>

namespace ustor {

/// For the begin of a program: pictures and what is made of them go back to the system as soon as they are
/// let go of. Otherwise the C library keeps them for the thread that made them, and the next thread asks for
/// as much again.
inline void giveLargeMemoryBack() {
    constexpr int large = 1 << 18;
    mallopt(M_MMAP_THRESHOLD, large);
}

} // namespace ustor
