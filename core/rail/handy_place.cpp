#include "rail/handy_place.h"

#include <algorithm>
#include <utility>
#include <vector>

namespace ustor {
namespace {

double handiness(const Part& part) {
    const double area = part.width_mm * part.height_mm;
    switch (part.partClass) {
    case PartClass::CeramicCapacitor:
    case PartClass::PolarCapacitor:
    case PartClass::Inductor:
    case PartClass::Fuse:
        return area;
    case PartClass::Connector:
        return 0.3 * area;
    default:
        return 0.05 * area;
    }
}

} // namespace

std::string handyPlace(const Board& board, const NetParts& parts, NetIndex net) {
    std::pair<double, std::string> best{0, board.nets[net].name};
    for (const PartIndex p : parts.on(net))
        for (const Pad& pad : board.parts[p].pads)
            if (const double h = handiness(board.parts[p]); pad.net == net && h > best.first)
                best = {h, board.parts[p].designator + "." + pad.pin};
    return best.second;
}

std::string handyPlace(const Board& board, const Stretch& stretch) {
    // A place on a rail with a name says more than one on a switch node; where no name tells, capacitors do.
    std::vector<bool> wanted(board.nets.size(), false);
    bool any = false;
    const auto want = [&](auto&& isRail) {
        if (any) return;
        for (const NetIndex net : stretch.nets)
            if (isRail(net)) any = wanted[net] = true;
    };
    want([&](NetIndex net) { return board.nets[net].nominal.has_value(); });
    std::vector<bool> smoothed(board.nets.size(), false);
    if (!any)
        for (const Part& part : board.parts)
            if (part.partClass == PartClass::CeramicCapacitor || part.partClass == PartClass::PolarCapacitor)
                for (const Pad& pad : part.pads)
                    if (pad.net >= 0) smoothed[pad.net] = true;
    want([&](NetIndex net) { return smoothed[net]; });
    want([](NetIndex) { return true; });
    // In one pass: a stretch may hold thousands of nets.
    std::pair<double, std::string> best{-1, ""};
    for (const Part& part : board.parts)
        for (const Pad& pad : part.pads)
            if (pad.net >= 0 && wanted[pad.net])
                if (const double h = handiness(part); h > best.first)
                    best = {h, part.designator + "." + pad.pin};
    if (best.first <= 0 && !stretch.nets.empty()) best.second = board.nets[stretch.nets.front()].name;
    return best.second;
}

std::string groundPlace(const Board& board) {
    for (NetIndex net = 0; net < static_cast<NetIndex>(board.nets.size()); ++net)
        if (board.nets[net].ground) {
            // A connector's ground pin or shell takes a clip better than anything else.
            for (const PadRef ref : board.padsOf(net))
                if (board.parts[ref.part].partClass == PartClass::Connector) return board.placeOf(ref);
            return handyPlace(board, NetParts(board), net);
        }
    return "GND";
}

} // namespace ustor
