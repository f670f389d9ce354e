#include "store/case_folder.h"

#include "base/number_text.h"
#include "board/board_files.h"
#include "diagnosis/fact/fact_check.h"

#include <fstream>
#include <nlohmann/json.hpp>

namespace ustor {
namespace {
using OpenLog = Result<std::unique_ptr<FactLog>> (*)(const std::filesystem::path&);

/// Facts that the door would not have let in: of another board, or written by another hand.
void tellStrangeFacts(CaseFolder& opened) {
    constexpr int most = 5;
    int strange = 0;
    for (const Fact* fact : activeFacts(opened.log->facts()))
        if (const auto why = whyNotTaken(opened.board, fact->body); why && ++strange <= most)
            opened.warnings.push_back(say("fact {number}: {why} (kept; strike it out or correct it)",
                                          {{"number", fact->id}, {"why", *why}}));
    if (strange > most)
        opened.warnings.push_back(sayCount("one more fact does not fit this board",
                                           "{n} more facts do not fit this board", strange - most));
}

Result<CaseFolder> openWith(const std::filesystem::path& folder, OpenLog openLog) {
    CaseFolder opened;
    opened.path = folder;
    auto title = CaseFolder::titleIn(folder);
    if (!title) return title.error();
    opened.title = std::move(title.value());
    auto board = readBoardFiles({CaseFolder::boardFileIn(folder)});
    if (!board) return board.error();
    opened.board = std::move(board.value());
    auto log = openLog(CaseFolder::factsFileIn(folder));
    if (!log) return log.error();
    opened.log = std::move(log.value());
    opened.warnings = opened.log->warnings();
    tellStrangeFacts(opened);
    return opened;
}

} // namespace

std::filesystem::path CaseFolder::boardFileIn(const std::filesystem::path& folder) {
    return folder / "board.board.json";
}

std::filesystem::path CaseFolder::factsFileIn(const std::filesystem::path& folder) {
    return folder / "facts.jsonl";
}

Result<std::string> CaseFolder::titleIn(const std::filesystem::path& folder) {
    std::ifstream header(folder / "case.json");
    if (!header) return Error{say("not a case: case.json is missing"), folder.string(), {}};
    try {
        const auto j = nlohmann::json::parse(header);
        const auto format = j.at("format").get<std::string>();
        if (format != "ustor-case/1")
            return Error{say("this case was written by a newer version ({format})", {{"format", format}}),
                         folder.string(), say("it is unchanged; update to open it")};
        return j.value("title", std::string());
    } catch (const nlohmann::json::exception& damage) {
        return Error{say("case.json cannot be read: {damage}", {{"damage", damage.what()}}), folder.string(),
                     say("it is unchanged")};
    }
}

Result<CaseFolder> CaseFolder::create(const std::filesystem::path& folder, const std::string& title,
                                      const Board& board) {
    std::error_code fault;
    if (std::filesystem::exists(folder / "case.json", fault))
        return Error{say("holds a case already"), folder.string(), say("it is unchanged")};
    std::filesystem::create_directories(folder, fault);
    if (fault)
        return Error{say("cannot be made: {fault}", {{"fault", fault.message()}}), folder.string(), {}};
    if (const auto written = writeBoardFile(board, boardFileIn(folder)); !written) return written.error();
    std::ofstream header(folder / "case.json");
    header << nlohmann::ordered_json{{"format", "ustor-case/1"}, {"title", title}}.dump(1) << "\n";
    header.flush();
    if (!header)
        return Error{
            say("cannot be written (disk full, or no permission)"), (folder / "case.json").string(), {}};
    header.close();
    return open(folder);
}

Result<CaseFolder> CaseFolder::open(const std::filesystem::path& folder) {
    return openWith(folder, &FactLog::open);
}

Result<CaseFolder> CaseFolder::openToRead(const std::filesystem::path& folder) {
    return openWith(folder, &FactLog::openToRead);
}

std::filesystem::path CaseFolder::nextRecording() const {
    for (int n = 1;; ++n) {
        const std::string name = (n < 10 ? "0" : "") + std::to_string(n);
        std::error_code fault;
        if (!std::filesystem::exists(path / "recordings" / name, fault)) return path / "recordings" / name;
    }
}

std::string fileNameFrom(const std::string& title) {
    std::string name;
    for (const char c : lowered(title)) {
        const bool plain = (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9');
        if (plain)
            name += c;
        else if (!name.empty() && name.back() != '-')
            name += '-';
    }
    while (!name.empty() && name.back() == '-')
        name.pop_back();
    return name.empty() ? "case" : name;
}

std::filesystem::path freeCaseFolder(const std::filesystem::path& parent, const std::string& title) {
    const std::string name = fileNameFrom(title);
    std::filesystem::path folder = parent / name;
    std::error_code fault;
    for (int n = 2; std::filesystem::exists(folder, fault); ++n)
        folder = parent / (name + "-" + std::to_string(n));
    return folder;
}

} // namespace ustor
