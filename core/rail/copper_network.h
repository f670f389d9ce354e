#pragma once

#include "base/message.h"
#include "rail/copper_cells.h"
#include "rail/network.h"
#include "rail/stretch.h"

#include <map>
#include <string>
#include <vector>

namespace ustor {

/// The copper of a stretch as a network of resistors, with a node for each of its pads.
struct CopperNetwork {
    ResistorNetwork network{0};
    std::map<std::pair<PartIndex, int>, int> nodes; ///< of pads, by part and pad
    bool fromCopper = false; ///< else only from where the pads lie: good for an order, not for figures
    double cell_mm = 0;      ///< side of a square of copper; 0 without copper
    int cells = 0;
    std::vector<Message> notes;      ///< what could not be told, for people
    std::vector<CopperCells> layers; ///< of the board, top to bottom: which node is which cell
    /// Places of the board that may be off together: region of each edge of the network (-1: taken as exact),
    /// and how far each region's resistance may be off, as a share.
    std::vector<int> regionOf;
    std::vector<double> regionDoubt;

    /// Node of a pad; -1 when the network does not hold it.
    int nodeOf(PadRef pad) const;
};

/// How the copper of a net might run where no file gives it.
enum class CopperGuess {
    Mesh,  ///< each pad joined to its four nearest as if by traces three millimetres wide
    Tree,  ///< along the shortest tree only
    Sheet, ///< one solid sheet under all pads
};

struct CopperNetworkSettings {
    CopperGuess guess = CopperGuess::Mesh;
    int mostCells = 120000;
    double cell_mm = 0; ///< side of the cells; 0: as fine as `mostCells` allows, 0.05 to 0.5 mm
    double plating_mm =
        0.02; ///< copper in plated holes (IPC-6012 class 2 asks for 20 um on average, from memory)
    Ohms link = Ohms(0.01); ///< of a fuse, ferrite, inductor or sense resistor
    Celsius temperature = Celsius(25);
};

/// Cuts the copper of each layer into square cells, four neighbours joined by the sheet resistance rho / t of
/// the layer, and joins layers through plated holes (barrel of the plating between two layers). Where a net
/// of the stretch has no copper, its way is guessed from where the pads lie, and `fromCopper` is false.
Result<CopperNetwork> copperNetwork(const Board& board, const Stretch& stretch,
                                    const CopperNetworkSettings& settings = {});

/// The network where the copper is known; else one for each guess: what they agree on can be trusted.
Result<std::vector<CopperNetwork>> copperNetworks(const Board& board, const Stretch& stretch,
                                                  const CopperNetworkSettings& settings = {});

} // namespace ustor
