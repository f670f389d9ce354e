#pragma once

#include "thermal/registration.h"
#include "thermal/still/palette.h"

#include <filesystem>

namespace ustor {

struct StillOptions {
    StillUnit unit = StillUnit::Guess;   ///< of pictures of numbers
    std::optional<double> low_c, high_c; ///< what the ends of a colour picture's bar say
    std::optional<ScaleBar> bar;         ///< where it is, when it is not found by itself
};

/// Is it a picture in false colours, whose temperatures only its bar can tell?
bool needsScale(const std::filesystem::path& file);

/// What the ends of its bar say, as kept beside the file ("NAME.json", "ustor-still/1"); nothing where nobody
/// said it yet.
struct StillScale {
    double low_c = 0, high_c = 0;
};
std::optional<StillScale> scaleOf(const std::filesystem::path& file);
Outcome keepScale(const std::filesystem::path& file, StillScale scale);
/// Where the camera looked, as kept in the same file; nothing where nobody showed it yet.
std::optional<Registration> placeOf(const std::filesystem::path& file);
Outcome keepPlace(const std::filesystem::path& file, const Registration& place);

/// Copies of still pictures into a case's folder of stills; what is there already is kept beside them.
/// Returns how many came in, or an error that names those that could not be copied; the others came in.
Result<int> takeStillsIn(const std::vector<std::filesystem::path>& files,
                         const std::filesystem::path& caseFolder);

/// A still from a file, told by what is in it: 16-bit or float TIFF, 16-bit grey PNG, a table of numbers, or
/// a PNG or JPEG picture in colours with a scale bar.
Result<Still> readStill(const std::filesystem::path& file, const StillOptions& options = {});

} // namespace ustor
