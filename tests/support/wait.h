#pragma once

#include <functional>

namespace ustor::testing {

/// Runs the event loop until something holds; false after so many milliseconds without it.
bool waitUntil(const std::function<bool()>& holds, int milliseconds = 5000);

} // namespace ustor::testing
