#pragma once

#include "base/result.h"
#include "thermal/locate.h"

#include <opencv2/core.hpp>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace ustor {

/// One picture of the heat, as temperatures.
struct Still {
    cv::Mat celsius;            ///< CV_32FC1; not a number where nothing can be known
    double step_k = 0;          ///< one step of its numbers or colours: finer than this it knows nothing
    std::vector<Message> notes; ///< what was taken for granted, what was left out and why
};

/// What the numbers of a picture mean.
enum class StillUnit { Guess, Celsius, Kelvin, Centikelvin };
/// "guess", "celsius", "kelvin", "centikelvin".
std::optional<StillUnit> stillUnitFromWord(std::string_view word);

/// Celsius from a picture of numbers (CV_16UC1 or CV_32FC1). With `Guess` the unit is told by the size of the
/// numbers, and a note says which it was: boards lie between -40 and 250 degrees. Error where no unit fits.
Result<Still> stillFromNumbers(const cv::Mat& numbers, StillUnit unit, const std::string& where);

/// A table of numbers, a row a line of the picture; comma, semicolon, tab or blank between them, a decimal
/// comma where another separates. Lines of words around it are left out with a note; rows of another length
/// than most are an error.
Result<Still> stillFromCsv(const std::string& text, StillUnit unit, const std::string& where);

/// A page of a TIFF file with 16-bit or 32-bit float grey.
Result<cv::Mat> readTiffPage(const std::string& file);

/// What is warmer in one still than in another of the same camera at the same place: their difference, the
/// camera's motion and what is common to all pixels taken out. Spots that stand out are found as in a
/// response map. A difference cannot tell what follows the power: hands and rework heat look the same.
struct StillDifference {
    cv::Mat rise_k; ///< CV_32FC1, in the place of the later one; not a number where either is
    double noise_k = 0;
    std::vector<HeatSource> spots; ///< the strongest first
    std::vector<Message> notes;
};
Result<StillDifference> stillDifference(const Still& warm, const Still& before);

} // namespace ustor
