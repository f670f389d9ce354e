#pragma once

#include "board/board.h"

#include <cstdint>
#include <optional>
#include <string>

namespace ustor::standin {

/// What is hidden on the board.
struct Fault {
    std::string part; ///< designator
    std::string net;  ///< the rail that is shorted to ground
    double ohms = 0.1;
    BoardPoint heatAt; ///< where in the part's body the heat arises
};

/// Nets and parts that can be chosen, in one seeded draw: a part with one pad on a named rail and one on
/// ground. Hard shorts mostly, a partial one now and then; core rails only hard ones, for they read low
/// anyway.
std::optional<Fault> drawFault(const Board& board, std::uint64_t seed);

/// A fault at a part of the user's choice. Nothing when the part cannot short a rail to ground.
std::optional<Fault> faultAt(const Board& board, const std::string& designator, double ohms);

} // namespace ustor::standin
