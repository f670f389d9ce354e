#include "diagnosis/together.h"

#include "rail/converters.h"

#include <algorithm>
#include <set>

namespace ustor {
namespace {

bool isIn(const std::vector<PartIndex>& parts, PartIndex part) {
    return std::find(parts.begin(), parts.end(), part) != parts.end();
}

/// The switches and the controller of the converters that the part switches in.
void addConverters(const Board& board, PartIndex guilty, std::vector<Together>& set) {
    const auto add = [&](PartIndex part, const Message& why) {
        const bool known =
            part < 0 || part == guilty ||
            std::any_of(set.begin(), set.end(), [part](const Together& other) { return other.part == part; });
        if (!known) set.push_back({part, true, why});
    };
    for (const Converter& converter : convertersOf(board)) {
        if (!isIn(converter.highSide, guilty) && !isIn(converter.lowSide, guilty)) continue;
        for (const auto* side : {&converter.highSide, &converter.lowSide})
            for (const PartIndex other : *side)
                add(other, say("the other switch of the same converter has carried the fault's current"));
        add(converter.controller,
            say("the controller has often seen the full input voltage: a new switch on an old controller "
                "dies again"));
    }
}

} // namespace

std::vector<Together> replaceTogether(const Board& board, const std::string& culprit) {
    std::vector<Together> set;
    const PartIndex guilty = board.findPart(culprit);
    if (guilty < 0) return set;
    addConverters(board, guilty, set);
    std::set<NetIndex> own;
    for (const Pad& pad : board.parts[guilty].pads)
        if (pad.net >= 0 && !board.nets[pad.net].ground) own.insert(pad.net);
    const Stretch stretch = stretchOf(board, own.empty() ? -1 : *own.begin());
    for (const PartIndex link : stretch.links)
        if (board.parts[link].partClass == PartClass::Fuse ||
            board.parts[link].partClass == PartClass::SenseResistor)
            set.push_back({link, false, say("it carried the fault's current: measure it before power")});
    return set;
}

} // namespace ustor
