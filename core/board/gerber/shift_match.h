#pragma once

#include "base/points.h"

#include <optional>
#include <vector>

namespace ustor::gerber {

/// The shift that brings most of the points onto the others, within a tenth of a millimetre; nothing where
/// fewer than half of the smaller set, or fewer than three points, agree.
std::optional<BoardPoint> shiftBetween(const std::vector<BoardPoint>& points,
                                       const std::vector<BoardPoint>& others);

} // namespace ustor::gerber
