#pragma once

#include "base/result.h"
#include "thermal/recording.h"

#include <filesystem>

namespace ustor {

/// A recording is looked at as a whole, in memory: some three gigabytes. Half an hour of a small camera, the
/// first 25 seconds of 640 x 512 at 60 Hz.
constexpr double mostReadPixels = 5e8;

/// What a recording on disk may hold. Beyond it a time is a fault of the file, not a time.
struct RecordingBounds {
    static constexpr double gap_s = 120;  ///< longest between two frames
    static constexpr double aside_s = 60; ///< the supply's log may begin and end so far from the frames
    static constexpr double coldest_c = -80, hottest_c = 1000; ///< ambient
    static constexpr double fastest_hz = 1000;
};

/// Reads a folder in the format "ustor-recording/1" (docs/formats/recording.md). Frames that cannot be read
/// at the end, or would be more than `mostPixels` in all, are left out with a warning; fails when no frame,
/// no times or no header can be read.
Result<Recording> readRecording(const std::filesystem::path& folder, double mostPixels = mostReadPixels);

/// The same without the pictures: times, supply and beats. Frames are those that have a time.
Result<Recording> readRecordingTimes(const std::filesystem::path& folder);

/// What its "recording.json" alone says.
Result<CameraInfo> readRecordingInfo(const std::filesystem::path& folder);

} // namespace ustor
