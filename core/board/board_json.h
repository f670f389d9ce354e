#pragma once

#include "base/result.h"
#include "board/board.h"

#include <string>
#include <string_view>

namespace ustor {

/// Writes a board in the format "ustor-board/1" (docs/formats/board.schema.json).
std::string boardToJson(const Board& board);

/// Reads "ustor-board/1". Unknown members are ignored; a newer format number, a member of the wrong kind or
/// an index out of range is an error that names the place.
Result<Board> boardFromJson(std::string_view text, std::string_view fileName);

} // namespace ustor
