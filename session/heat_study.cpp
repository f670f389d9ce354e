#include "session/heat_study.h"

#include "base/units.h"

#include "session/still_file.h"
#include "thermal/heat_colours.h"
#include "thermal/power.h"
#include "thermal/recording_reader.h"
#include "thermal/still/picture_file.h"

#include <algorithm>
#include <cmath>

namespace ustor {

std::vector<double> HeatStudy::courseAt(PixelPoint place) const {
    std::vector<double> course;
    if (rises_k.empty()) return course;
    const cv::Size size = rises_k.picture();
    const cv::Rect block(std::clamp(static_cast<int>(std::lround(place.x_px)) - 1, 0, size.width - 3),
                         std::clamp(static_cast<int>(std::lround(place.y_px)) - 1, 0, size.height - 3), 3, 3);
    for (std::size_t i = 0; i < rises_k.size(); ++i)
        course.push_back(rises_k.meanAt(i, block));
    return course;
}

namespace {

/// Mean of the first second, degrees Celsius.
cv::Mat firstSecond_c(const Recording& recording) {
    constexpr double still_s = 1;
    cv::Mat sum;
    int count = 0;
    for (const ThermalFrame& frame : recording.frames) {
        if (frame.time_s - recording.frames.front().time_s > still_s) break;
        const cv::Mat kelvin = kelvinOf(frame.centikelvin);
        sum = sum.empty() ? kelvin : cv::Mat(sum + kelvin);
        ++count;
    }
    return sum / count - celsiusZero_k;
}

} // namespace

Result<HeatStudy> studyRecording(const std::filesystem::path& folder,
                                 const std::optional<Registration>& registration, double thickness_mm,
                                 const LeftOut& leftOut) {
    auto read = readRecording(folder, roomToLocate);
    if (!read) return read.error();
    const Registration* where = registration ? &*registration : nullptr;
    HeatStudy study;
    study.info = read.value().info;
    study.still = firstSecond_c(read.value());
    auto looked = lookAt(std::move(read.value()), where, thickness_mm, leftOut);
    if (!looked) return looked.error();
    RecordingLook& look = looked.value();
    if (!look.response.ready())
        return Error{look.located.notes.empty() ? say("nothing was switched") : look.located.notes.front(),
                     folder.string(), say("there is nothing to map")};
    study.located = std::move(look.located);
    for (const HeatMapKind kind : allHeatMaps())
        study.maps.push_back(heatMapOf(kind, look.response, study.located));

    study.times_s = std::move(look.frames.times_s);
    study.rises_k = std::move(look.frames.rises_k);
    for (const double t : study.times_s)
        study.watts.push_back(deliveredPower_w(look.supply, t, study.located.clockOffset_s));
    return study;
}

Result<HeatStudy> studyStill(const std::filesystem::path& file) {
    StillOptions options;
    if (const auto scale = scaleOf(file)) {
        options.low_c = scale->low_c;
        options.high_c = scale->high_c;
    }
    auto read = readStill(file, options);
    if (!read) return read.error();
    HeatStudy study;
    study.still = read.value().celsius;
    study.stillStep_k = read.value().step_k;
    study.info.width = study.still.cols;
    study.info.height = study.still.rows;
    study.located.notes = read.value().notes;
    return study;
}

Result<std::vector<std::string>> exportMaps(const HeatStudy& study, const std::filesystem::path& folder) {
    std::error_code fault;
    std::filesystem::create_directories(folder, fault);
    if (fault) return Error{verbatim(fault.message()), folder.string(), say("nothing was written")};
    std::vector<std::string> written;
    std::vector<HeatMap> maps = study.maps;
    if (maps.empty()) {
        HeatMap still{HeatMapKind::Amplitude, study.still, "degree Celsius", 0, 1, 0};
        cv::minMaxLoc(still.values, &still.low, &still.high, nullptr, nullptr, still.values == still.values);
        maps.push_back(still);
    }
    for (const HeatMap& map : maps) {
        std::string stem(study.maps.empty() ? "still" : wordOf(map.kind));
        std::replace(stem.begin(), stem.end(), ' ', '-');
        if (const auto done = writeMapTiff(map, folder / (stem + ".tiff")); !done) return done.error();
        if (const auto done = writeMapCsv(map, folder / (stem + ".csv")); !done) return done.error();
        const auto picture = folder / (stem + ".png");
        if (auto done = writePng(heatColours(map.values, map.low, map.high), picture.string()); !done)
            return Error{done.error().what, picture.string(), say("what was written before it is kept")};
        for (const char* ending : {".tiff", ".csv", ".png"})
            written.push_back(stem + ending);
    }
    return written;
}

} // namespace ustor
