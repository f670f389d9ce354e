#pragma once

#include "base/result.h"
#include "board/board.h"

#include <string_view>

namespace ustor {

/// Reads an IPC-D-356A bare-board netlist: header parameters (UNITS, JOB, NNAME long names), test records
/// 317 (through hole), 327 (surface), their 017/027 continuations, non-test points 307/337/347/357 and
/// tooling 367 (skipped), board edge 389, and 999 at the end. Pads are grouped to parts by designator; "VIA"
/// records become vias. A record that cannot be read is left out with a warning naming its line; the rest is
/// kept. Fails when no record at all can be read.
Result<Board> readIpcD356(std::string_view text, std::string_view fileName);

} // namespace ustor
