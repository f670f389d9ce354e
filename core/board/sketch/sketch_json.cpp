#include "board/photo_json.h"

#include "board/bad_member.h"
#include "board/sketch/footprint.h"
#include "board/sketch/sketch.h"

#include <nlohmann/json.hpp>
#include <stdexcept>

namespace ustor {

using Json = nlohmann::ordered_json;

namespace {

Stamp stampFrom(const Json& j) {
    Stamp s;
    s.designator = j.at("designator").get<std::string>();
    s.caseCode = j.at("case").get<std::string>();
    if (!footprintOf(s.caseCode))
        throw BadMember{
            say("{part}: no such case: {caseCode}", {{"part", s.designator}, {"caseCode", s.caseCode}})};
    s.value = j.value("value", std::string());
    const auto word = j.value("class", std::string("other"));
    const auto partClass = partClassFromWord(word);
    if (!partClass)
        throw BadMember{say("{part}: no such class: {word}", {{"part", s.designator}, {"word", word}})};
    s.partClass = *partClass;
    s.side = j.value("side", std::string("top")) == "bottom" ? Side::Bottom : Side::Top;
    s.at = {j.at("at_mm").at(0).get<double>(), j.at("at_mm").at(1).get<double>()};
    s.rotation_deg = j.value("rotation_deg", 0.0);
    return s;
}

} // namespace

std::string sketchToJson(const Sketch& sketch) {
    Json j{{"format", "ustor-sketch/1"}, {"name", sketch.name}};
    for (const char* list : {"photos", "stamps", "beeps"})
        j[list] = Json::array();
    for (const BoardPhoto& photo : sketch.photos)
        j["photos"].push_back(photoToJson(photo));
    for (const Stamp& s : sketch.stamps)
        j["stamps"].push_back({{"designator", s.designator},
                               {"case", s.caseCode},
                               {"value", s.value},
                               {"class", wordOf(s.partClass)},
                               {"side", wordOf(s.side)},
                               {"at_mm", {s.at.x_mm, s.at.y_mm}},
                               {"rotation_deg", s.rotation_deg}});
    for (const Beep& b : sketch.beeps)
        j["beeps"].push_back({{"a", b.a}, {"b", b.b}, {"connected", b.connected}});
    j["names"] = Json::object();
    for (const auto& [place, name] : sketch.names)
        j["names"][place] = name;
    return j.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

Result<Sketch> sketchFromJson(std::string_view text, std::string_view fileName) {
    const std::string file(fileName);
    try {
        const Json j = Json::parse(text);
        if (j.at("format").get<std::string>() != "ustor-sketch/1")
            return Error{say("not a sketch, or one of a newer version"), file, say("nothing was read")};
        Sketch sketch;
        sketch.name = j.value("name", std::string());
        for (const Json& photo : j.at("photos"))
            sketch.photos.push_back(photoFromJson(photo));
        for (const Json& s : j.at("stamps"))
            sketch.stamps.push_back(stampFrom(s));
        for (const Json& b : j.at("beeps"))
            sketch.beeps.push_back(
                {b.at("a").get<std::string>(), b.at("b").get<std::string>(), b.at("connected").get<bool>()});
        if (j.contains("names"))
            for (const auto& [place, name] : j["names"].items())
                sketch.names[place] = name.get<std::string>();
        return sketch;
    } catch (const BadMember& bad) {
        return Error{bad.what, file, say("nothing was read")};
    } catch (const nlohmann::json::exception& fault) {
        return Error{say("cannot be read as a sketch: {fault}", {{"fault", fault.what()}}), file,
                     say("nothing was read")};
    }
}

} // namespace ustor
