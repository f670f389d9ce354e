#pragma once

#include "base/result.h"
#include "board/board.h"

#include <string>
#include <string_view>

namespace ustor {

/// True when a table's header names part, pin and net.
bool looksLikePinList(std::string_view text);

/// Reads a pin list: one pad a row, columns `part,pin,net,x,y,side` in any order and any separator. Lengths
/// are millimetres unless the header or the cell says mil or inch; side is top, bottom or both (a through
/// hole). A row that cannot be read is left out with a warning naming its line. Fails when no row can be
/// read.
Result<Board> readPinList(std::string_view text, std::string_view fileName);

/// The same table in millimetres. Sizes, holes, vias, values and packages have no place in it.
std::string writePinList(const Board& board);

} // namespace ustor
