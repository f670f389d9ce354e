#pragma once

#include "base/result.h"
#include "board/board.h"
#include "board/plane/plane_shapes.h"

#include <map>
#include <string>
#include <string_view>
#include <vector>

namespace ustor::gerber {

using namespace plane;

/// One thing that a file draws: a flash, a stroke or a filled region.
struct GraphicObject {
    Paths shape;
    bool dark = true; ///< else it takes away what lies below it
    bool flash = false;
    BoardPoint at;         ///< of a flash
    double pen_mm = 0;     ///< width of a round stroke
    std::string net;       ///< X2 object attribute .N; empty without one
    std::string part, pin; ///< X2 object attribute .P
    std::string function;  ///< .AperFunction of the aperture or region
};

/// A layer as its file draws it, in millimetres, y up, in the file's own origin.
struct GerberFile {
    std::map<std::string, std::string> attributes; ///< X2 file attributes without the dot: "FileFunction" ...
    std::vector<GraphicObject> objects;            ///< in the order they are drawn
    bool negative = false;                         ///< the whole picture is inverted (out of use, still met)
    std::vector<BoardWarning> warnings;
    /// Everything dark that no later clear object took away.
    Paths picture() const;
};

/// Reads a Gerber layer (RS-274X with or without X2 attributes): standard and macro apertures, blocks,
/// strokes, arcs of both quadrant modes, regions, polarity, mirror, turn and scale, step and repeat. What is
/// unknown is skipped with a warning that names its line. Fails when nothing of it is Gerber. Source: the
/// published layer format specification, from memory.
Result<GerberFile> readGerber(std::string_view text, std::string_view fileName);

/// True when a text starts like a Gerber file.
bool looksLikeGerber(std::string_view text);

} // namespace ustor::gerber
