#pragma once

#include "board/board.h"

#include <map>
#include <string>
#include <vector>

namespace ustor {

/// Where a person placed layers and drills: the shift from the file's own frame to the board's, mm, by file
/// name.
using FileShifts = std::map<std::string, BoardPoint>;

/// A layer or drill file of which nothing tells where on the board it lies.
struct UnplacedFile {
    std::string name;
    std::vector<BoardPoint> places;  ///< pads or holes, in the file's own frame, mm
    std::vector<CopperPiece> copper; ///< in the same frame; empty for drills
};

/// A shift, and how well it fits.
struct HandPlacing {
    BoardPoint shift; ///< from the file's frame to the board's, mm
    int onPads = 0;   ///< of the file's places, within a tenth of a millimetre of a pad or via
};

/// Places that a file's places may belong to: pads and vias of the board.
std::vector<BoardPoint> placesOn(const Board& board);

/// Two clicks: a place of the file, and where it belongs on the board. The shift is theirs alone: what lies
/// near pads by chance (a via beside each) would only draw it away.
HandPlacing placedBy(const UnplacedFile& file, BoardPoint from, const Board& board, BoardPoint to);

} // namespace ustor
