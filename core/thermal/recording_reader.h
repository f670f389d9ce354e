#pragma once

#include "base/result.h"
#include "thermal/recording.h"

#include <filesystem>
#include <optional>

namespace ustor {

/// How much of a recording is held in memory.
struct ReadingRoom {
    double mostPixels = 5e8; ///< of all frames: a gigabyte as they came
    /// Frames of a larger one are taken together, several as their mean, down to so many a second; what does
    /// not fit even then is left. Without it they are never taken together.
    std::optional<double> slowest_hz = {};
};

/// A recording is looked at as a whole, in some 600 megabytes: a minute of 640 x 512 at 60 Hz with seven
/// frames taken together. Eight a second still show what follows pulses of a second.
constexpr ReadingRoom roomToLocate{1.7e8, 8};

/// Reads a folder in the format "ustor-recording/1" (docs/formats/recording.md). Frames that cannot be read
/// at the end, or have no room, are left out with a warning; fails when no frame, no times or no header can
/// be read.
Result<Recording> readRecording(const std::filesystem::path& folder, const ReadingRoom& room = {});

/// The same without the pictures: times, supply and beats. Frames are those that have a time.
Result<Recording> readRecordingTimes(const std::filesystem::path& folder);

/// What its "recording.json" alone says.
Result<CameraInfo> readRecordingInfo(const std::filesystem::path& folder);

} // namespace ustor
