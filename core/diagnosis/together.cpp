#include "diagnosis/together.h"

#include <algorithm>
#include <set>

namespace ustor {

std::vector<Together> replaceTogether(const Board& board, const std::string& culprit) {
    std::vector<Together> set;
    const PartIndex guilty = board.findPart(culprit);
    if (guilty < 0) return set;
    const Part& part = board.parts[guilty];
    std::set<NetIndex> own;
    for (const Pad& pad : part.pads)
        if (pad.net >= 0 && !board.nets[pad.net].ground) own.insert(pad.net);
    const auto shared = [&](const Part& other) {
        return std::count_if(own.begin(), own.end(), [&](NetIndex net) {
            return std::any_of(other.pads.begin(), other.pads.end(),
                               [net](const Pad& pad) { return pad.net == net; });
        });
    };
    if (part.partClass == PartClass::Mosfet) {
        for (PartIndex p = 0; p < static_cast<PartIndex>(board.parts.size()); ++p) {
            const Part& other = board.parts[p];
            if (p == guilty || shared(other) == 0) continue;
            // The other switch shares the switch node; the controller drives gate and watches the node.
            const bool unnamed = std::any_of(own.begin(), own.end(), [&](NetIndex net) {
                return !board.nets[net].nominal && board.touches(p, net);
            });
            if (other.partClass == PartClass::Mosfet && unnamed)
                set.push_back(
                    {p, true, say("the other switch of the same converter has carried the fault's current")});
            if (other.partClass == PartClass::Regulator && shared(other) >= 2)
                set.push_back(
                    {p, true,
                     say("the controller has often seen the full input voltage: a new switch on an old "
                         "controller dies again")});
        }
    }
    const Stretch stretch = stretchOf(board, own.empty() ? -1 : *own.begin());
    for (const PartIndex link : stretch.links)
        if (board.parts[link].partClass == PartClass::Fuse ||
            board.parts[link].partClass == PartClass::SenseResistor)
            set.push_back({link, false, say("it carried the fault's current: measure it before power")});
    return set;
}

} // namespace ustor
