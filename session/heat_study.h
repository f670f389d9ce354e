#pragma once

#include "base/result.h"
#include "thermal/heat_maps.h"
#include "thermal/recording.h"

#include <filesystem>
#include <optional>

namespace ustor {

/// A finished recording or a still picture, looked at: what was found, the maps, the course of places. Pure
/// but for reading the folder; some hundred milliseconds to seconds, so for a thread of its own.
struct HeatStudy {
    CameraInfo info;
    LocateResult located;
    std::vector<HeatMap> maps; ///< in the order of `allHeatMaps`
    cv::Mat still;             ///< mean of the first second, or the picture; degrees Celsius, CV_32FC1
    double stillStep_k = 0;    ///< one step of a still's numbers or colours
    bool isStill() const { return maps.empty(); }
    std::vector<double> times_s;
    KeptRises rises_k;         ///< repaired, as the answer was made from
    std::vector<double> watts; ///< delivered at those times

    /// Mean course of 3 x 3 pixels, kelvin above the first frame.
    std::vector<double> courseAt(PixelPoint place) const;
};

Result<HeatStudy> studyRecording(const std::filesystem::path& folder,
                                 const std::optional<Registration>& registration,
                                 double boardThickness_mm = 1.6, const LeftOut& leftOut = {});

/// A still picture as a study: nothing but its temperatures, and what was left out of them.
Result<HeatStudy> studyStill(const std::filesystem::path& file);

/// Every map into a folder as TIFF, CSV and PNG, "first-instant.tiff" and so on. The folder is made; files of
/// those names are written anew. Returns their names.
Result<std::vector<std::string>> exportMaps(const HeatStudy& study, const std::filesystem::path& folder);

} // namespace ustor
