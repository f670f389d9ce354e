#pragma once

#include "base/result.h"
#include "thermal/recording.h"

#include <filesystem>

namespace ustor {

/// Reads a folder in the format "ustor-recording/1" (docs/formats/recording.md). Frames that cannot be read
/// at the end are left out with a warning; fails when no frame, no times or no header can be read.
Result<Recording> readRecording(const std::filesystem::path& folder);

} // namespace ustor
