#include "thermal/surface_strokes.h"

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>
#include <opencv2/imgproc.hpp>

namespace ustor {

void paintSurfaces(cv::Mat& emissivity, const std::vector<SurfaceStroke>& strokes) {
    // Sub-pixel places, as fixed-point numbers of the drawing.
    constexpr int bits = 4, one = 1 << bits;
    const auto fixed = [](double px) { return static_cast<int>(std::lround(px * one)); };
    for (const SurfaceStroke& s : strokes)
        cv::line(emissivity, {fixed(s.from.x_px), fixed(s.from.y_px)}, {fixed(s.to.x_px), fixed(s.to.y_px)},
                 cv::Scalar(emissivityOf(s.surface)),
                 std::max(1, static_cast<int>(std::lround(2 * s.radius_px))), cv::LINE_8, bits);
}

std::string_view wordOf(Surface surface) {
    switch (surface) {
    case Surface::Mask:
        return "mask";
    case Surface::Plastic:
        return "plastic";
    case Surface::Ceramic:
        return "ceramic";
    case Surface::BareMetal:
        return "bare metal";
    }
    return "mask";
}

const std::vector<Surface>& allSurfaces() {
    static const std::vector<Surface> all{Surface::Mask, Surface::Plastic, Surface::Ceramic,
                                          Surface::BareMetal};
    return all;
}

std::string surfacesToJson(const std::vector<SurfaceStroke>& strokes) {
    nlohmann::ordered_json j{{"format", "ustor-surfaces/1"}, {"strokes", nlohmann::ordered_json::array()}};
    for (const SurfaceStroke& s : strokes)
        j["strokes"].push_back({{"surface", wordOf(s.surface)},
                                {"from_px", {s.from.x_px, s.from.y_px}},
                                {"to_px", {s.to.x_px, s.to.y_px}},
                                {"radius_px", s.radius_px}});
    return j.dump(1) + "\n";
}

Result<std::vector<SurfaceStroke>> surfacesFromJson(const std::string& text, const std::string& where) {
    try {
        const auto j = nlohmann::json::parse(text);
        if (j.at("format").get<std::string>() != "ustor-surfaces/1")
            return Error{"not surfaces that this version reads", where, "no surface was painted"};
        std::vector<SurfaceStroke> strokes;
        for (const auto& one : j.at("strokes")) {
            const auto word = one.at("surface").get<std::string>();
            const auto known = std::find_if(allSurfaces().begin(), allSurfaces().end(),
                                            [&](Surface s) { return wordOf(s) == word; });
            if (known == allSurfaces().end())
                return Error{"no such surface: '" + word + "'", where, "no surface was painted"};
            const auto place = [&](const char* name) {
                return PixelPoint{one.at(name).at(0).get<double>(), one.at(name).at(1).get<double>()};
            };
            strokes.push_back({*known, place("from_px"), place("to_px"), one.value("radius_px", 2.5)});
        }
        return strokes;
    } catch (const nlohmann::json::exception& fault) {
        return Error{std::string("cannot be read: ") + fault.what(), where, "no surface was painted"};
    }
}

} // namespace ustor
