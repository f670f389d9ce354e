#pragma once

#include "rail/stretch.h"
#include "thermal/registration.h"

#include <string>
#include <vector>

namespace ustor {

/// Where a person can clip a lead or hold a probe on a net: the largest two-ended part's pad ("C12.1"); the net's name
/// where nothing is handy.
std::string handyPlace(const Board& board, NetIndex net);
/// The same for the widest stretch of nets; and for ground.
std::string handyPlace(const Board& board, const Stretch& stretch);
std::string groundPlace(const Board& board);

/// Parts whose middle is easy to find in a warm picture of one side, spread far apart: to be clicked as landmarks.
std::vector<PartIndex> landmarkParts(const Board& board, Side side, int count);

} // namespace ustor
