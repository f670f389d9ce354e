#pragma once

namespace ustor {
/// Ends the program with the place and the broken promise; never returns.
[[noreturn]] void checkFailed(const char* expression, const char* file, int line, const char* message);
} // namespace ustor

/// An invariant of our own code, checked in every build. Never for what a user, a file or a device can cause.
#define USTOR_CHECK(expression, message)                                                                     \
    ((expression) ? static_cast<void>(0) : ::ustor::checkFailed(#expression, __FILE__, __LINE__, message))
