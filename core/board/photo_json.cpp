#include "board/photo_json.h"

#include "board/bad_member.h"

#include <cmath>
#include <nlohmann/json.hpp>

namespace ustor {

nlohmann::ordered_json photoToJson(const BoardPhoto& photo) {
    nlohmann::ordered_json j{{"side", wordOf(photo.side)},
                             {"file", photo.file},
                             {"low_mm", {photo.low.x_mm, photo.low.y_mm}},
                             {"size_mm", {photo.width_mm, photo.height_mm}}};
    j["corners_px"] = nlohmann::ordered_json::array();
    for (const PixelPoint p : photo.corners)
        j["corners_px"].push_back({p.x_px, p.y_px});
    return j;
}

BoardPhoto photoFromJson(const nlohmann::ordered_json& j) {
    BoardPhoto photo;
    const auto side = j.value("side", std::string("top"));
    if (side != "top" && side != "bottom")
        throw BadMember{say("side '{side}' is neither top nor bottom", {{"side", side}})};
    photo.side = side == "top" ? Side::Top : Side::Bottom;
    photo.file = j.at("file").get<std::string>();
    const auto& low = j.at("low_mm");
    const auto& size = j.at("size_mm");
    photo.low = {low.at(0).get<double>(), low.at(1).get<double>()};
    photo.width_mm = size.at(0).get<double>();
    photo.height_mm = size.at(1).get<double>();
    const auto& corners = j.at("corners_px");
    if (corners.size() != photo.corners.size()) throw BadMember{say("a photo needs four corners")};
    for (std::size_t i = 0; i < photo.corners.size(); ++i)
        photo.corners[i] = {corners[i].at(0).get<double>(), corners[i].at(1).get<double>()};
    return photo;
}

} // namespace ustor
