#include "diagnosis/path_heat.h"

#include "diagnosis/heat_evidence.h"
#include "rail/stretch.h"

#include <algorithm>

namespace ustor {

bool liesInPath(const LocatedSource& source, const Board& board, NetIndex rail, Side side) {
    if (!source.board) return false;
    const HeatSpot spot{*source.board, source.sigma_mm, source.spot.snr, 0, 0};
    const Stretch stretch = stretchOf(board, rail);
    for (PartIndex p = 0; p < static_cast<PartIndex>(board.parts.size()); ++p) {
        const bool link =
            rail < 0 ? isLink(board.parts[p])
                     : std::find(stretch.links.begin(), stretch.links.end(), p) != stretch.links.end();
        if (link && board.parts[p].side == side && spotOnPart(spot, board.parts[p])) return true;
    }
    return false;
}

void orderByPath(LocateResult& result, const Board& board, NetIndex rail, Side side) {
    for (LocatedSource& source : result.sources)
        source.inPath = liesInPath(source, board, rail, side);
    std::stable_partition(result.sources.begin(), result.sources.end(),
                          [](const LocatedSource& s) { return !s.inPath; });
}

} // namespace ustor
