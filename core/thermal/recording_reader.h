#pragma once

#include "base/result.h"
#include "thermal/recording.h"

#include <filesystem>

namespace ustor {

/// A recording is looked at as a whole, in memory: some three gigabytes. Half an hour of a small camera, the
/// first 25 seconds of 640 x 512 at 60 Hz.
constexpr double mostReadPixels = 5e8;

/// Reads a folder in the format "ustor-recording/1" (docs/formats/recording.md). Frames that cannot be read
/// at the end, or would be more than `mostPixels` in all, are left out with a warning; fails when no frame,
/// no times or no header can be read.
Result<Recording> readRecording(const std::filesystem::path& folder, double mostPixels = mostReadPixels);

/// What its "recording.json" alone says.
Result<RecordingInfo> readRecordingInfo(const std::filesystem::path& folder);

} // namespace ustor
