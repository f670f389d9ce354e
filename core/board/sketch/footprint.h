#pragma once

#include "board/board.h"

#include <string>
#include <string_view>
#include <vector>

namespace ustor {

/// Body and pads of a case before rotation, around its middle.
struct Footprint {
    std::string code; ///< "0402", "SOT-23", "SO-8", "QFN-16" ...
    double length_mm = 0, width_mm = 0;
    struct Land {
        std::string pin;
        BoardPoint at;
        double width_mm = 0, height_mm = 0;
    };
    std::vector<Land> lands;
};

/// Cases that can be stamped, most used first for a class. Two-ended chips by EIA code; lands by the density
/// level B habits of IPC-7351 [memory]; outlines of JEDEC families (SOT-23 as TO-236, SO-8 as MS-012)
/// [memory].
std::vector<std::string> casesFor(PartClass partClass);

/// Nothing when the code is not known.
std::optional<Footprint> footprintOf(std::string_view code);

/// The letter that a class's designators start with.
std::string_view letterOf(PartClass partClass);

} // namespace ustor
