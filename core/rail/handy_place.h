#pragma once

#include "rail/stretch.h"

#include <string>

namespace ustor {

/// Where a person can clip a lead or hold a probe on a net: the largest two-ended part's pad ("C12.1"); the
/// net's name where nothing is handy.
std::string handyPlace(const Board& board, const NetParts& parts, NetIndex net);
/// The same on a whole stretch; rails with a known voltage go before switch nodes.
std::string handyPlace(const Board& board, const Stretch& stretch);
/// A ground for the black lead: a connector's pin where there is one.
std::string groundPlace(const Board& board);

} // namespace ustor
