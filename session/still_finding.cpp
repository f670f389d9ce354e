#include "session/still_finding.h"

#include <cmath>

namespace ustor {

std::vector<LocatedSource> warmerThere(const StillDifference& difference, const Registration* place) {
    std::vector<LocatedSource> sources;
    for (const HeatSource& spot : difference.spots) {
        LocatedSource& source = sources.emplace_back();
        source.spot = spot;
        if (!place) continue;
        source.board = place->toBoard(spot.at);
        source.sigma_mm = std::hypot(spot.sigma_px / place->pixelsPerMm(*source.board), place->sigma_mm());
    }
    return sources;
}

std::optional<HeatFound> findingOf(const StillDifference& difference, const Registration& place,
                                   const std::string& still) {
    HeatFound finding{HeatVerdict::Point, place.side(), {}, still, true};
    for (const LocatedSource& source : warmerThere(difference, &place))
        finding.spots.push_back({*source.board, source.sigma_mm, source.spot.snr, 0, 0});
    return finding.spots.empty() ? std::nullopt : std::optional(finding);
}

} // namespace ustor
