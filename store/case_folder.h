#pragma once

#include "base/message.h"
#include "board/board.h"
#include "store/fact_log.h"

namespace ustor {

/// A case on disk: `case.json`, `board.board.json`, `facts.jsonl`, `recordings/`.
struct CaseFolder {
    std::filesystem::path path;
    std::string title;
    Board board;
    std::unique_ptr<FactLog> log;
    std::vector<Message> warnings;

    /// Makes a new case around a board. Error when the folder holds a case already or cannot be written.
    static Result<CaseFolder> create(const std::filesystem::path& folder, const std::string& title,
                                     const Board& board);
    static Result<CaseFolder> open(const std::filesystem::path& folder);
    /// Only to look at: without the writer's lock, and whatever the folder's permissions are. No fact can be
    /// added.
    static Result<CaseFolder> openToRead(const std::filesystem::path& folder);

    static std::filesystem::path boardFileIn(const std::filesystem::path& folder);
    static std::filesystem::path factsFileIn(const std::filesystem::path& folder);
    /// The title in its `case.json`. Error when the folder is no case, or one of a newer version.
    static Result<std::string> titleIn(const std::filesystem::path& folder);

    /// A fresh folder for a recording inside the case ("recordings/03").
    std::filesystem::path nextRecording() const;
};

/// A name for a file or folder from a title: lower case letters, digits and dashes.
std::string fileNameFrom(const std::string& title);
/// A folder name that is free, from a title: lower case, dashes, a number when taken.
std::filesystem::path freeCaseFolder(const std::filesystem::path& parent, const std::string& title);

} // namespace ustor
