#include "session/landmarks.h"

#include <algorithm>

namespace ustor {

std::vector<PartIndex> landmarkParts(const Board& board, Side side, int count) {
    std::vector<PartIndex> candidates;
    const auto visible = [&](const Part& part) {
        const bool through = !part.pads.empty() && part.pads.front().through;
        // On a side without large parts smaller ones have to do: all connectors of an edge lie on one line.
        const double area = part.width_mm * part.height_mm;
        const bool marked = part.partClass == PartClass::Connector || part.partClass == PartClass::Inductor ||
                            area > (side == Side::Top ? 12 : 2);
        return (part.side == side || through) && marked;
    };
    for (PartIndex p = 0; p < static_cast<PartIndex>(board.parts.size()); ++p)
        if (visible(board.parts[p])) candidates.push_back(p);
    if (static_cast<int>(candidates.size()) < count) {
        candidates.clear();
        for (PartIndex p = 0; p < static_cast<PartIndex>(board.parts.size()); ++p)
            if (board.parts[p].side == side) candidates.push_back(p);
    }
    // Farthest first: each next one is the farthest from all that are taken, starting at a corner.
    std::vector<PartIndex> chosen;
    const BoardPoint corner = board.box().low;
    while (static_cast<int>(chosen.size()) < count && !candidates.empty()) {
        const auto distance = [&](PartIndex p) {
            double nearest = chosen.empty() ? -distance_mm(board.parts[p].centre, corner) : 1e9;
            for (const PartIndex other : chosen)
                nearest = std::min(nearest, distance_mm(board.parts[p].centre, board.parts[other].centre));
            return nearest;
        };
        const auto next =
            std::max_element(candidates.begin(), candidates.end(),
                             [&](PartIndex a, PartIndex b) { return distance(a) < distance(b); });
        chosen.push_back(*next);
        candidates.erase(next);
    }
    return chosen;
}

std::vector<AskedPart> partsToAsk(const Board& board, Side side) {
    constexpr int wanted = 5;
    std::vector<AskedPart> asked;
    for (const PartIndex p : landmarkParts(board, side, wanted))
        asked.push_back({board.parts[p].designator, board.parts[p].centre});
    return asked;
}

std::string namesOf(const std::vector<AskedPart>& parts) {
    std::string names;
    for (const AskedPart& part : parts)
        names += (names.empty() ? "" : ", ") + part.designator;
    return names;
}

} // namespace ustor
