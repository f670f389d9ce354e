#pragma once

#include "board/board.h"
#include "board/gerber/drill_file.h"
#include "board/gerber/gerber_file.h"
#include "board/gerber/layer_role.h"
#include "board/gerber/placing_by_hand.h"

#include <string>
#include <string_view>
#include <vector>

namespace ustor::gerber {

/// The layers and drills of one board as its maker gets them.
struct Fabrication {
    struct Layer {
        std::string name;
        LayerRole role;
        GerberFile file;
    };
    struct Drills {
        std::string name;
        DrillFile file;
    };
    std::vector<Layer> layers;
    std::vector<Drills> drills;
    bool empty() const { return layers.empty() && drills.empty(); }
    bool holds(std::string_view name) const; ///< a layer or drill file of that name
};

/// Adds copper, outline, vias and, where X2 attributes tell them, parts, pads and nets to a board. Files from
/// other origins are brought to the board's pads, or to the first copper layer, by the shift that a person
/// gave, else by the one that most drills and flashes agree on; a file that tells nothing goes with the
/// others. Copper that hangs together through plated holes takes the net of its attributes, else of the pads
/// that lie on it; where these clash the majority holds and a warning names them. Without any net known, each
/// connected copper with two or more pads gets a name of its own. Returns the files that nothing places: they
/// are on the board as they are.
std::vector<UnplacedFile> joinFabrication(Board& board, const Fabrication& fabrication,
                                          const FileShifts& shifts = {});

} // namespace ustor::gerber
