#pragma once

#include "base/result.h"
#include "board/board.h"

#include <string_view>

namespace ustor {

/// Reads an IPC-2581 file (XML), revisions B and C: profile, stack-up, packages, components with values from
/// the bill of materials, pads, nets, holes and the copper of all layers. Of several steps the one with most
/// components is the board. How parts are turned and mirrored differs between writers: the way that brings
/// most package pins onto copper of their own net is taken. What cannot be read is left out with a warning
/// that names its line. Fails when there is no IPC-2581 root or no step. Source: the published standard, from
/// memory.
Result<Board> readIpc2581(std::string_view text, std::string_view fileName);

/// True when a text starts like one.
bool looksLikeIpc2581(std::string_view text);

} // namespace ustor
