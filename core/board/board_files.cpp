#include "board/board_files.h"
#include "base/input_bounds.h"

#include "base/number_text.h"
#include "board/board_join.h"
#include "board/board_json.h"
#include "board/centroid_reader.h"
#include "board/gerber/fabrication.h"
#include "board/ipc2581_reader.h"
#include "board/ipcd356_reader.h"
#include "board/ipcd356_writer.h"
#include "board/pin_list.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fstream>
#include <memory>
#include <optional>
#include <string_view>

namespace ustor {
namespace {

enum class Kind { Json, Xml, Netlist, PinList, Centroids, Gerber, Drill };

/// Files lie about their kind by their name more often than by their first lines.
Kind kindOf(std::string_view text) {
    const std::string_view start = trimmed(text.substr(0, 4096));
    if (start.starts_with('{')) return Kind::Json;
    if (looksLikeIpc2581(text)) return Kind::Xml;
    if (gerber::looksLikeDrill(text)) return Kind::Drill;
    if (gerber::looksLikeGerber(text)) return Kind::Gerber;
    std::string_view rest = text.substr(0, 65536);
    while (!rest.empty()) {
        const auto newline = rest.find('\n');
        const std::string_view line = rest.substr(0, newline);
        for (const std::string_view mark : {"317", "327", "P  UNITS", "P  JOB", "C  IPC-D-356"})
            if (line.starts_with(mark)) return Kind::Netlist;
        if (newline == std::string_view::npos) break;
        rest.remove_prefix(newline + 1);
    }
    return looksLikePinList(text) ? Kind::PinList : Kind::Centroids;
}

bool isFabrication(Kind kind) {
    return kind == Kind::Gerber || kind == Kind::Drill;
}

Outcome addFabrication(gerber::Fabrication& fabrication, Kind kind, std::string_view text,
                       const std::string& name) {
    if (kind == Kind::Drill) {
        auto drills = gerber::readDrill(text, name);
        if (!drills) return drills.error();
        fabrication.drills.push_back({name, std::move(drills.value())});
        return Done{};
    }
    auto layer = gerber::readGerber(text, name);
    if (!layer) return layer.error();
    const auto role = gerber::roleOf(layer.value().attributes, name);
    fabrication.layers.push_back({name, role, std::move(layer.value())});
    return Done{};
}

Result<Board> boardFrom(Kind kind, std::string_view text, const std::string& name) {
    if (kind == Kind::Json) return boardFromJson(text, name);
    if (kind == Kind::Xml) return readIpc2581(text, name);
    return kind == Kind::PinList ? readPinList(text, name) : readIpcD356(text, name);
}

/// The bytes of a file, not cleared before they are read.
struct Content {
    std::unique_ptr<char[]> bytes;
    std::size_t size = 0;
    std::string_view text() const { return {bytes.get(), size}; }
};

Result<Content> contentOf(const std::filesystem::path& file) {
    std::error_code fault;
    if (!std::filesystem::is_regular_file(file, fault)) return Error{say("no such file"), file.string(), {}};
    if (std::filesystem::file_size(file, fault) > bounds::boardFile_bytes)
        return Error{say("larger than 512 MiB: not a board file"), file.string(), {}};
    std::ifstream stream(file, std::ios::binary);
    Content content;
    content.size = std::filesystem::file_size(file, fault);
    if (!fault) {
        content.bytes = std::make_unique_for_overwrite<char[]>(content.size);
        stream.read(content.bytes.get(), static_cast<std::streamsize>(content.size));
    }
    if (fault || !stream) return Error{say("cannot be read"), file.string(), {}};
    return content;
}

Outcome writeWhole(const std::string& text, const std::filesystem::path& file) {
    const std::filesystem::path fresh = file.string() + ".part";
    {
        std::ofstream stream(fresh, std::ios::binary);
        stream << text;
        stream.flush();
        if (!stream) {
            std::error_code ignored;
            std::filesystem::remove(fresh, ignored);
            return Error{say("cannot be written (disk full, or no permission)"), file.string(),
                         say("an older file is unchanged")};
        }
    }
    std::error_code fault;
    std::filesystem::rename(fresh, file, fault);
    if (fault)
        return Error{say("cannot be replaced: {fault}", {{"fault", fault.message()}}), file.string(),
                     say("the older file is unchanged")};
    return Done{};
}

/// A picture by its first bytes: PNG, JPEG, TIFF, BMP, WebP.
bool looksLikeAPicture(const std::filesystem::path& file) {
    std::ifstream in(file, std::ios::binary);
    std::array<char, 12> head{};
    in.read(head.data(), head.size());
    const std::string_view start(head.data(), static_cast<std::size_t>(in.gcount()));
    using namespace std::string_view_literals;
    for (const std::string_view mark : {"\x89PNG"sv, "\xff\xd8\xff"sv, "II*\0"sv, "MM\0*"sv, "BM"sv})
        if (start.starts_with(mark)) return true;
    return start.starts_with("RIFF") && start.ends_with("WEBP");
}

/// Photos lie beside the board's file or below it. Another path would carry any file of this machine into a
/// case and whatever is made of it.
void keepPhotos(Board& board, const std::filesystem::path& folder) {
    std::erase_if(board.photos, [&](BoardPhoto& photo) {
        const std::filesystem::path path(photo.file);
        const bool inside =
            !photo.file.empty() && path.is_relative() &&
            std::none_of(path.begin(), path.end(), [](const auto& step) { return step == ".."; });
        std::error_code fault;
        const auto whole = folder / path;
        const bool link = std::filesystem::is_symlink(whole, fault);
        const bool away = !inside || link, wrong = away || !looksLikeAPicture(whole);
        if (wrong)
            board.warnings.push_back(
                {photo.file, away ? say("photo left out: it does not lie beside the board's file")
                                  : say("photo left out: it is missing or is no picture")});
        photo.file = whole.string();
        return wrong;
    });
}

/// Numbers that no board has: a fault of the file, or of its units.
std::optional<Message> outOfBounds(Board& board) {
    using bounds::place_mm, bounds::usualThickness_mm;
    const auto lies = [](BoardPoint p) {
        return std::abs(p.x_mm) <= place_mm && std::abs(p.y_mm) <= place_mm;
    };
    for (const Part& part : board.parts) {
        const auto pad =
            std::find_if(part.pads.begin(), part.pads.end(), [&](const Pad& each) { return !lies(each.at); });
        if (!lies(part.centre) || pad != part.pads.end())
            return say("{part} lies more than ten metres away: wrong units, or a damaged file",
                       {{"part", part.designator}});
    }
    if (!(board.thickness_mm >= bounds::thinnest_mm && board.thickness_mm <= bounds::thickest_mm)) {
        board.warnings.push_back({"thickness", say("{thickness} mm is no board: {usual} mm is reckoned with",
                                                   {{"thickness", textOfNumber(board.thickness_mm)},
                                                    {"usual", textOfNumber(usualThickness_mm)}})});
        board.thickness_mm = usualThickness_mm;
    }
    return std::nullopt;
}

} // namespace

Result<Board> readBoardFiles(const std::vector<std::filesystem::path>& files, const FileShifts& shifts,
                             std::vector<UnplacedFile>* unplaced) {
    if (files.empty()) return Error{say("no file was given"), "", {}};
    Board board;
    bool haveBase = false;
    std::vector<CentroidList> lists;
    gerber::Fabrication fabrication;
    for (const auto& file : files) {
        const auto content = contentOf(file);
        if (!content) return content.error();
        const std::string_view text = content.value().text();
        const std::string name = file.filename().string();
        const Kind kind = kindOf(text);
        if (kind == Kind::Centroids) {
            auto list = readCentroids(text, name);
            if (!list) return list.error();
            lists.push_back(std::move(list.value()));
            continue;
        }
        if (isFabrication(kind)) {
            if (const auto added = addFabrication(fabrication, kind, text, name); !added)
                return added.error();
            continue;
        }
        auto read = boardFrom(kind, text, name);
        if (!read) return read.error();
        if (haveBase)
            return Error{say("a second board or netlist cannot be joined to the first"), name,
                         say("give one of them")};
        board = std::move(read.value());
        haveBase = true;
    }
    for (const auto& list : lists)
        joinCentroids(board, list);
    for (const auto& [name, shift] : shifts)
        if (!fabrication.holds(name))
            return Error{say("is to be placed by hand but is no layer or drill file among these"), name, {}};
    if (!fabrication.empty()) {
        auto left = gerber::joinFabrication(board, fabrication, shifts);
        if (unplaced) *unplaced = std::move(left);
    }
    completeParts(board);
    if (board.name.empty()) board.name = files.front().stem().stem().string();
    keepPhotos(board, files.front().parent_path());
    if (const auto trouble = outOfBounds(board))
        return Error{*trouble, files.front().filename().string(), say("nothing was read")};
    return board;
}

Outcome writeBoardFile(const Board& board, const std::filesystem::path& file) {
    if (board.photos.empty()) return writeWhole(boardToJson(board), file);
    // Photos lie beside the file, so that both can be moved and shared together.
    Board portable = board;
    std::error_code fault;
    for (BoardPhoto& photo : portable.photos) {
        const std::filesystem::path source(photo.file),
            copy = file.parent_path() / "photos" / source.filename();
        std::filesystem::create_directories(copy.parent_path(), fault);
        if (!std::filesystem::equivalent(source, copy, fault))
            std::filesystem::copy_file(source, copy, std::filesystem::copy_options::overwrite_existing,
                                       fault);
        if (fault && !std::filesystem::exists(copy))
            return Error{say("the photo cannot be copied: {fault}", {{"fault", fault.message()}}),
                         source.string(), say("nothing was written")};
        photo.file = (std::filesystem::path("photos") / source.filename()).string();
    }
    return writeWhole(boardToJson(portable), file);
}

Outcome exportBoard(const Board& board, const std::filesystem::path& file, std::vector<Message>& lost) {
    const std::string ending = lowered(file.extension().string());
    if (ending == ".json") return writeBoardFile(board, file);
    if (ending == ".csv") {
        if (!board.vias.empty()) lost.emplace_back(say("vias have no place in a pin list"));
        return writeWhole(writePinList(board), file);
    }
    if (ending == ".356" || ending == ".ipc" || ending == ".net")
        return writeWhole(writeIpcD356(board, lost), file);
    return Error{say("the ending must be .json, .356 or .csv"), file.string(), say("nothing was written")};
}

} // namespace ustor
