#pragma once

#include "base/message.h"
#include "board/board.h"

#include <string>

namespace ustor {

/// Writes an IPC-D-356A bare-board netlist in metric units of a micrometre: JOB, long net names as NNAME, a
/// 317 or 327 record for each pad, 317 for each via, the outline as 389 and 999 at the end. What the columns
/// cannot hold is told in `lost`: designators above six characters, pins above four, places beyond a metre,
/// and values, packages and copper, which the format has no place for.
std::string writeIpcD356(const Board& board, std::vector<Message>& lost);

} // namespace ustor
