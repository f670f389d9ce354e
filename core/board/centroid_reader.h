#pragma once

#include "base/result.h"
#include "board/board.h"

#include <string_view>
#include <vector>

namespace ustor {

/// One row of a list of part centres.
struct Centroid {
    int line = 0;
    std::string designator, value, package;
    BoardPoint at;
    double rotation_deg = 0;
    Side side = Side::Top;
};

struct CentroidList {
    std::vector<Centroid> rows;
    std::vector<BoardWarning> warnings;
};

/// Reads a centroid list: CSV with comma, semicolon or tab, a header row that names its columns in any order
/// (designator, value, package, x, y, rotation, side), lengths in mm, mil or inch by header or suffix,
/// decimal comma allowed where the separator is not a comma. Rows that cannot be read are left out with a
/// warning.
Result<CentroidList> readCentroids(std::string_view text, std::string_view fileName);

} // namespace ustor
