#include "board/board_json.h"
#include "base/input_bounds.h"

#include "board/bad_member.h"
#include "board/nominal_voltage.h"

#include "board/photo_json.h"

#include "base/json_number.h"

#include <cmath>
#include <nlohmann/json.hpp>
#include <stdexcept>

namespace ustor {
namespace {

using Json = nlohmann::ordered_json;

Json jsonOf(BoardPoint p) {
    return Json::array({p.x_mm, p.y_mm});
}

Json jsonOf(const Board& board, const Pad& pad) {
    Json j{{"pin", pad.pin}, {"at_mm", jsonOf(pad.at)}, {"side", wordOf(pad.side)}};
    if (pad.net >= 0) j["net"] = board.nets[pad.net].name;
    if (pad.through) j["through"] = true;
    if (pad.width_mm > 0) j["size_mm"] = {pad.width_mm, pad.height_mm};
    if (pad.hole_mm > 0) j["hole_mm"] = pad.hole_mm;
    return j;
}

Json jsonOf(const Board& board, const Part& part) {
    Json j{{"designator", part.designator},    {"value", part.value},
           {"package", part.package},          {"class", wordOf(part.partClass)},
           {"side", wordOf(part.side)},        {"centre_mm", jsonOf(part.centre)},
           {"rotation_deg", part.rotation_deg}};
    if (part.classByUser) j["class_by_user"] = true;
    if (part.width_mm > 0) j["body_mm"] = {part.width_mm, part.height_mm};
    j["pads"] = Json::array();
    for (const Pad& pad : part.pads)
        j["pads"].push_back(jsonOf(board, pad));
    return j;
}

Json jsonOf(const std::vector<BoardPoint>& path) {
    Json j = Json::array();
    // A tenth of a micrometre: far below what is drawn, and half as long.
    const auto rounded = [](double mm) { return std::round(mm * 1e4) / 1e4; };
    for (const BoardPoint p : path)
        j.push_back(Json::array({rounded(p.x_mm), rounded(p.y_mm)}));
    return j;
}

Json jsonOf(const Board& board, const CopperLayer& layer) {
    Json j{{"name", layer.name}, {"thickness_mm", layer.thickness_mm}, {"pieces", Json::array()}};
    for (const CopperPiece& piece : layer.pieces) {
        Json one{{"outline_mm", jsonOf(piece.outline)}};
        if (piece.net >= 0) one["net"] = board.nets[piece.net].name;
        for (const auto& hole : piece.holes)
            one["holes_mm"].push_back(jsonOf(hole));
        j["pieces"].push_back(std::move(one));
    }
    return j;
}

BoardPoint pointFrom(const Json& j) {
    if (!j.is_array() || j.size() != 2) throw BadMember{say("a point needs two numbers")};
    return {j[0].get<double>(), j[1].get<double>()};
}

Side sideFrom(const Json& j) {
    const auto word = j.value("side", std::string("top"));
    if (word != "top" && word != "bottom")
        throw BadMember{say("side '{word}' is neither top nor bottom", {{"word", word}})};
    return word == "top" ? Side::Top : Side::Bottom;
}

class Loader {
  public:
    Board load(const Json& j) {
        board.name = j.value("name", std::string());
        board.thickness_mm = j.value("thickness_mm", bounds::usualThickness_mm);
        if (j.contains("copper_layers")) {
            const auto layers = wholeNumber(j["copper_layers"]);
            if (!layers || *layers < 0 || *layers > bounds::copperLayers)
                throw BadMember{say("copper_layers is no count of layers")};
            board.copperLayers = static_cast<int>(*layers);
        }
        if (j.contains("outline_mm"))
            for (const Json& p : j["outline_mm"])
                board.outline.push_back(pointFrom(p));
        for (const Json& n : j.at("nets"))
            loadNet(n);
        for (const Json& p : j.at("parts"))
            loadPart(p);
        if (j.contains("vias"))
            for (const Json& v : j["vias"])
                board.vias.push_back({pointFrom(v.at("at_mm")), netFrom(v), v.value("hole_mm", 0.0)});
        if (j.contains("copper"))
            for (const Json& layer : j["copper"])
                loadCopper(layer);
        if (j.contains("photos"))
            for (const Json& photo : j["photos"])
                board.photos.push_back(photoFromJson(photo));
        return std::move(board);
    }

  private:
    static std::vector<BoardPoint> pathFrom(const Json& j) {
        std::vector<BoardPoint> path;
        for (const Json& p : j)
            path.push_back(pointFrom(p));
        constexpr std::size_t fewest = 3;
        if (path.size() < fewest) throw BadMember{say("a piece of copper needs three points or more")};
        return path;
    }

    void loadCopper(const Json& j) {
        CopperLayer layer;
        layer.name = j.value("name", std::string());
        layer.thickness_mm = j.value("thickness_mm", layer.thickness_mm);
        for (const Json& p : j.at("pieces")) {
            CopperPiece piece;
            piece.outline = pathFrom(p.at("outline_mm"));
            piece.net = netFrom(p);
            if (p.contains("holes_mm"))
                for (const Json& hole : p["holes_mm"])
                    piece.holes.push_back(pathFrom(hole));
            layer.pieces.push_back(std::move(piece));
        }
        board.copper.push_back(std::move(layer));
    }

    void loadNet(const Json& j) {
        Net net;
        net.name = j.at("name").get<std::string>();
        net.ground = j.value("ground", false);
        // Told to be unknown by null; where nothing is told, the name may tell.
        if (!j.contains("nominal_volts"))
            net.nominal = nominalFromName(net.name);
        else if (!j["nominal_volts"].is_null())
            net.nominal = Volts(j["nominal_volts"].get<double>());
        net.nominalByUser = j.value("nominal_by_user", false);
        m_nets[net.name] = static_cast<NetIndex>(board.nets.size());
        board.nets.push_back(std::move(net));
    }

    NetIndex netFrom(const Json& j) {
        if (!j.contains("net")) return -1;
        const auto name = j["net"].get<std::string>();
        const auto found = m_nets.find(name);
        if (found == m_nets.end())
            throw BadMember{say("net '{name}' is not in the list of nets", {{"name", name}})};
        return found->second;
    }

    void loadPart(const Json& j) {
        Part part;
        part.designator = j.at("designator").get<std::string>();
        part.value = j.value("value", std::string());
        part.package = j.value("package", std::string());
        part.side = sideFrom(j);
        part.centre = pointFrom(j.at("centre_mm"));
        part.rotation_deg = j.value("rotation_deg", 0.0);
        part.classByUser = j.value("class_by_user", false);
        const auto word = j.value("class", std::string("other"));
        const auto partClass = partClassFromWord(word);
        if (!partClass)
            board.warnings.push_back(
                {part.designator, say("class '{word}' not known: taken as other", {{"word", word}})});
        part.partClass = partClass.value_or(PartClass::Other);
        if (j.contains("body_mm")) {
            const BoardPoint body = pointFrom(j["body_mm"]);
            part.width_mm = body.x_mm;
            part.height_mm = body.y_mm;
        }
        for (const Json& p : j.at("pads")) {
            Pad pad;
            pad.pin = p.at("pin").get<std::string>();
            pad.at = pointFrom(p.at("at_mm"));
            pad.net = netFrom(p);
            pad.side = sideFrom(p);
            pad.through = p.value("through", false);
            pad.hole_mm = p.value("hole_mm", 0.0);
            if (p.contains("size_mm")) {
                const BoardPoint size = pointFrom(p["size_mm"]);
                pad.width_mm = size.x_mm;
                pad.height_mm = size.y_mm;
            }
            part.pads.push_back(std::move(pad));
        }
        board.parts.push_back(std::move(part));
    }

    Board board;
    std::map<std::string, NetIndex> m_nets;
};

} // namespace

std::string boardToJson(const Board& board) {
    Json j{{"format", "ustor-board/1"},
           {"name", board.name},
           {"thickness_mm", board.thickness_mm},
           {"copper_layers", board.copperLayers}};
    j["outline_mm"] = Json::array();
    for (const BoardPoint p : board.outline)
        j["outline_mm"].push_back(jsonOf(p));
    j["nets"] = Json::array();
    for (const Net& net : board.nets) {
        Json n{{"name", net.name}};
        if (net.ground) n["ground"] = true;
        if (net.nominal)
            n["nominal_volts"] = net.nominal->value;
        else if (nominalFromName(net.name))
            n["nominal_volts"] = nullptr;
        if (net.nominalByUser) n["nominal_by_user"] = true;
        j["nets"].push_back(std::move(n));
    }
    j["parts"] = Json::array();
    for (const Part& part : board.parts)
        j["parts"].push_back(jsonOf(board, part));
    j["vias"] = Json::array();
    for (const Via& via : board.vias) {
        Json v{{"at_mm", jsonOf(via.at)}, {"hole_mm", via.hole_mm}};
        if (via.net >= 0) v["net"] = board.nets[via.net].name;
        j["vias"].push_back(std::move(v));
    }
    if (!board.copper.empty()) j["copper"] = Json::array();
    for (const CopperLayer& layer : board.copper)
        j["copper"].push_back(jsonOf(board, layer));
    if (!board.photos.empty()) j["photos"] = Json::array();
    for (const BoardPhoto& photo : board.photos)
        j["photos"].push_back(photoToJson(photo));
    // One line a part keeps a version control's view of a changed board readable.
    std::string out = "{\n";
    bool first = true;
    for (const auto& [key, member] : j.items()) {
        out += std::string(first ? "" : ",\n") + " " + Json(key).dump() + ": ";
        first = false;
        if (!member.is_array() || member.empty()) {
            out += member.dump(-1, ' ', false, Json::error_handler_t::replace);
            continue;
        }
        out += "[\n";
        for (std::size_t i = 0; i < member.size(); ++i)
            out += "  " + member[i].dump(-1, ' ', false, Json::error_handler_t::replace) +
                   (i + 1 < member.size() ? ",\n" : "\n");
        out += " ]";
    }
    return out + "\n}\n";
}

Result<Board> boardFromJson(std::string_view text, std::string_view fileName) {
    const std::string file(fileName);
    try {
        const Json j = Json::parse(text);
        const auto format = j.at("format").get<std::string>();
        if (!format.starts_with("ustor-board/"))
            return Error{say("not a board: format is '{format}'", {{"format", format}}), file,
                         say("nothing was read")};
        if (format != "ustor-board/1")
            return Error{say("this board was written by a newer version ({format})", {{"format", format}}),
                         file, say("the file is unchanged; update to open it")};
        return Loader().load(j);
    } catch (const BadMember& bad) {
        return Error{bad.what, file, say("nothing was read")};
    } catch (const nlohmann::json::exception& fault) {
        return Error{say("cannot be read as a board: {fault}", {{"fault", fault.what()}}), file,
                     say("nothing was read")};
    }
}

} // namespace ustor
