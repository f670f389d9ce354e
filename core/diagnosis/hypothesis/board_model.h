#pragma once

#include "diagnosis/circuit/board_circuit.h"
#include "diagnosis/circuit/feed.h"
#include "diagnosis/hypothesis/companions.h"
#include "rail/siblings.h"

namespace ustor {

/// What follows from the board alone, whatever is known about it: costly for large boards, and good until a
/// class or a voltage changes. Board and parts must outlive it.
struct BoardModel {
    BoardModel(const Board& board, const NetParts& parts);
    BoardModel(const BoardModel&) = delete;
    BoardModel& operator=(const BoardModel&) = delete;

    /// Another board with the same parts is judged by the same model: no class and no voltage differs. Of its
    /// own board it cannot tell whether it was corrected since.
    bool serves(const Board& other) const;

    const Board& board;
    BoardCircuit circuit;
    Feed feed;
    Companions companions;
    Siblings siblings; ///< remembers what it was asked
};

} // namespace ustor
