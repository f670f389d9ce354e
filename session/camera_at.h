#pragma once

#include "base/result.h"
#include "bench/camera.h"
#include "bench/instrument_address.h"

#include <memory>

namespace ustor {

/// The camera that an address asks for, not yet started. An error where its profile or recording cannot be
/// read, or where there can be no camera.
Result<std::unique_ptr<Camera>> cameraAt(const InstrumentAddress& address);

} // namespace ustor
