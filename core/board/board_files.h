#pragma once

#include "base/result.h"
#include "board/board.h"
#include "board/gerber/placing_by_hand.h"

#include <filesystem>
#include <vector>

namespace ustor {

/// Reads one or several files (IPC-2581, IPC-D-356A netlist, pin list, centroid lists, Gerber layers, drills,
/// board.json), told by their content, into one board. The first file that cannot be read at all is the
/// error; what is doubtful becomes a warning of the board. Files that nothing places are on the board as they
/// are, and told in `unplaced`.
Result<Board> readBoardFiles(const std::vector<std::filesystem::path>& files, const FileShifts& shifts = {},
                             std::vector<UnplacedFile>* unplaced = nullptr);

/// Writes `*.board.json` so that a crash in between leaves the old file whole; photos are copied beside it.
Outcome writeBoardFile(const Board& board, const std::filesystem::path& file);

/// Writes the format that the file's name asks for: `*.json`; `*.356`, `*.ipc` and `*.net` an IPC-D-356A
/// netlist;
/// `*.csv` a pin list. What the format cannot hold is told in `lost`.
Outcome exportBoard(const Board& board, const std::filesystem::path& file, std::vector<Message>& lost);

} // namespace ustor
