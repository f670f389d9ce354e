#pragma once

#include "board/board.h"

#include <string>

namespace ustor::testing {

/// A small board, built in code: input, fuse, ferrite, a converter with its switches, a core with a
/// processor. Nets: VIN_12V -F1- VSYS_12V; Q1/Q2/L1 make +1V0_CORE for U1 (processor); +3V3 with C10..C15 and
/// U2 (IC).
Board smallBoard();

/// Adds a two-pad part along x.
Part& addChip(Board& board, const std::string& designator, PartClass partClass, BoardPoint at,
              const std::string& netA, const std::string& netB, double length_mm = 1.0,
              double width_mm = 0.5);
NetIndex addNet(Board& board, const std::string& name);

/// The demo board of that stem, read from its netlist and centroid list.
Board demoBoard(const std::string& stem);

} // namespace ustor::testing
