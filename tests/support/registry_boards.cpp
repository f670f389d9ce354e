#include "support/registry_boards.h"

#include "board/board_files.h"
#include "board/gerber/gerber_file.h"

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <map>
#include <nlohmann/json.hpp>

namespace ustor::testing {
namespace fs = std::filesystem;

namespace {

std::string contentOf(const fs::path& file) {
    std::ifstream stream(file, std::ios::binary);
    return {(std::istreambuf_iterator<char>(stream)), {}};
}

struct Flash {
    BoardPoint at;
    Side side = Side::Top;
    NetIndex net = -1;
};

std::vector<Flash> flashesOf(const Board& board, const FabricationFiles& files) {
    std::vector<Flash> flashes;
    for (std::size_t layer = 0; layer < files.copper.size() && layer < board.copper.size(); ++layer) {
        const auto read = gerber::readGerber(contentOf(files.copper[layer]), files.copper[layer]);
        if (!read) continue;
        for (const auto& object : read.value().objects) {
            if (!object.flash || !object.dark) continue;
            // A through pad is flashed on both layers, and is one.
            constexpr double same_mm = 0.5;
            if (std::any_of(flashes.begin(), flashes.end(),
                            [&](const Flash& f) { return distance_mm(f.at, object.at) < same_mm; }))
                continue;
            for (const CopperPiece& piece : board.copper[layer].pieces)
                if (piece.net >= 0 && contains(piece, object.at)) {
                    flashes.push_back({object.at, layer == 0 ? Side::Top : Side::Bottom, piece.net});
                    break;
                }
        }
    }
    return flashes;
}

NetIndex netWithMostCopper(const Board& board) {
    std::map<NetIndex, double> area;
    for (const CopperLayer& layer : board.copper)
        for (const CopperPiece& piece : layer.pieces)
            if (piece.net >= 0) area[piece.net] += area_mm2(piece);
    if (area.empty()) return -1;
    return std::max_element(area.begin(), area.end(),
                            [](const auto& a, const auto& b) { return a.second < b.second; })
        ->first;
}

} // namespace

std::vector<FabricationFiles> registryBoards() {
    std::vector<FabricationFiles> boards;
    std::error_code none;
    std::vector<fs::path> folders;
    for (const auto& entry : fs::directory_iterator(USTOR_REGISTRY_BOARDS, none))
        if (fs::exists(entry.path() / "manifest.json")) folders.push_back(entry.path());
    std::sort(folders.begin(), folders.end());
    for (const fs::path& folder : folders) {
        const auto manifest = nlohmann::json::parse(contentOf(folder / "manifest.json"), nullptr, false);
        FabricationFiles files;
        files.name = "board " + std::to_string(boards.size() + 1);
        for (const auto& layer : manifest["layers"]) {
            const std::string type = layer.value("type", ""),
                              file = (folder / layer.value("name", "")).string();
            if (type == "copper" || type == "drill") {
                const std::string side = layer.value("side", "");
                if (type == "drill")
                    files.drills.push_back(file);
                else if (side == "top")
                    files.copper.insert(files.copper.begin(), file);
                else
                    files.copper.push_back(file);
            }
        }
        boards.push_back(std::move(files));
    }
    return boards;
}

Board furnished(const FabricationFiles& files) {
    std::vector<fs::path> all(files.copper.begin(), files.copper.end());
    all.insert(all.end(), files.drills.begin(), files.drills.end());
    auto read = readBoardFiles(all);
    if (!read) return {};
    Board board = std::move(read.value());
    const NetIndex ground = netWithMostCopper(board);
    if (ground < 0) return board;
    board.nets[ground].ground = true;
    const auto flashes = flashesOf(board, files);
    int number = 0;
    for (const Flash& flash : flashes) {
        if (flash.net == ground) continue;
        const Flash* nearest = nullptr;
        for (const Flash& other : flashes)
            if (other.net == ground &&
                (!nearest || distance_mm(other.at, flash.at) < distance_mm(nearest->at, flash.at)))
                nearest = &other;
        if (!nearest) break;
        Part part;
        part.designator = "C" + std::to_string(++number);
        part.partClass = PartClass::CeramicCapacitor;
        part.side = flash.side;
        part.centre = flash.at;
        part.pads = {{"1", flash.at, flash.net, flash.side, false, 0.5, 0.5, 0},
                     {"2", nearest->at, ground, nearest->side, false, 0.5, 0.5, 0}};
        board.parts.push_back(std::move(part));
    }
    return board;
}

} // namespace ustor::testing
