#pragma once

#include "base/result.h"
#include "board/board.h"

#include <string>
#include <string_view>
#include <vector>

namespace ustor::gerber {

/// A drilled hole, or a slot when both ends differ.
struct DrilledHole {
    BoardPoint from, to;
    double diameter_mm = 0;
};

enum class Plating { Unknown, Plated, NonPlated };

struct DrillFile {
    std::vector<DrilledHole> holes; ///< millimetres, y up, in the file's own origin
    Plating plating = Plating::Unknown;
    int firstLayer = 0, lastLayer = 0; ///< copper layers from 1 on that the holes join; 0 when not said
    std::vector<BoardWarning> warnings;
};

/// Reads an Excellon drill file: tools, both units, both kinds of zero suppression, decimal points, repeated
/// holes, slots (G85) and routed slots (M15, M16). A format comment ("FILE_FORMAT=3:3") and the attribute
/// comments of X2 are followed; else numbers without a point are 2.4 in inches and 3.3 in millimetres (common
/// practice). What cannot be read is left out with a warning that names its line. Fails when there is neither
/// a tool nor a hole.
Result<DrillFile> readDrill(std::string_view text, std::string_view fileName);

bool looksLikeDrill(std::string_view text);

} // namespace ustor::gerber
