#include "session/places.h"

#include <algorithm>

namespace ustor {
namespace {

double handiness(const Part& part) {
    const double area = part.width_mm * part.height_mm;
    switch (part.partClass) {
    case PartClass::CeramicCapacitor:
    case PartClass::PolarCapacitor:
    case PartClass::Inductor:
    case PartClass::Fuse: return area;
    case PartClass::Connector: return 0.3 * area;
    default: return 0.05 * area;
    }
}

std::pair<double, std::string> bestPad(const Board& board, NetIndex net) {
    std::pair<double, std::string> best{0, board.nets[net].name};
    for (const PadRef ref : board.padsOf(net))
        if (const double h = handiness(board.parts[ref.part]); h > best.first) best = {h, board.placeOf(ref)};
    return best;
}

} // namespace

std::string handyPlace(const Board& board, NetIndex net) { return bestPad(board, net).second; }

std::string handyPlace(const Board& board, const Stretch& stretch) {
    std::pair<double, std::string> best{-1, ""};
    // A place on a rail with a name says more than one on a switch node.
    const bool named = std::any_of(stretch.nets.begin(), stretch.nets.end(), [&](NetIndex n) { return board.nets[n].nominal.has_value(); });
    for (const NetIndex net : stretch.nets)
        if (auto pad = bestPad(board, net); pad.first > best.first && (board.nets[net].nominal || !named)) best = std::move(pad);
    return best.second;
}

std::string groundPlace(const Board& board) {
    for (NetIndex net = 0; net < static_cast<NetIndex>(board.nets.size()); ++net)
        if (board.nets[net].ground) {
            // A connector's ground pin or shell takes a clip better than anything else.
            for (const PadRef ref : board.padsOf(net))
                if (board.parts[ref.part].partClass == PartClass::Connector) return board.placeOf(ref);
            return handyPlace(board, net);
        }
    return "GND";
}

std::vector<PartIndex> landmarkParts(const Board& board, Side side, int count) {
    std::vector<PartIndex> candidates;
    const auto visible = [&](const Part& part) {
        const bool through = !part.pads.empty() && part.pads.front().through;
        const bool marked = part.partClass == PartClass::Connector || part.partClass == PartClass::Inductor || part.width_mm * part.height_mm > 12;
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
            for (const PartIndex other : chosen) nearest = std::min(nearest, distance_mm(board.parts[p].centre, board.parts[other].centre));
            return nearest;
        };
        const auto next = std::max_element(candidates.begin(), candidates.end(), [&](PartIndex a, PartIndex b) { return distance(a) < distance(b); });
        chosen.push_back(*next);
        candidates.erase(next);
    }
    return chosen;
}

} // namespace ustor
