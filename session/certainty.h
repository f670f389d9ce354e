#pragma once

#include "session/heat_worker.h"

#include <optional>

namespace ustor {

/// A point far above the noise whose place is known to a fraction of a small part.
bool isCertain(const LiveHeat& heat);

/// Seconds of the same pulses until `isCertain`, when a point shows already: what stands out of white noise
/// grows with the square root of the time, and so does the sharpness of its place. 0 when it is certain;
/// nothing where no point shows yet.
std::optional<double> secondsToCertain(const LiveHeat& heat);

} // namespace ustor
