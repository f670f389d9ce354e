#include "rail/behind.h"

#include <algorithm>

namespace ustor {

std::vector<Behind> stretchesBehind(const Board& board, const Stretch& stretch) {
    std::vector<Behind> found;
    std::set<NetIndex> seen(stretch.nets.begin(), stretch.nets.end());
    for (PartIndex p = 0; p < static_cast<PartIndex>(board.parts.size()); ++p) {
        const Part& part = board.parts[p];
        const bool passes = part.partClass == PartClass::Mosfet || part.partClass == PartClass::Regulator ||
                            part.partClass == PartClass::Switch;
        const bool here = std::any_of(part.pads.begin(), part.pads.end(),
                                      [&](const Pad& pad) { return stretch.holds(pad.net); });
        if (!passes || !here) continue;
        for (const Pad& pad : part.pads) {
            if (pad.net < 0 || board.nets[pad.net].ground || seen.contains(pad.net)) continue;
            const Stretch other = stretchOf(board, pad.net);
            seen.insert(other.nets.begin(), other.nets.end());
            Behind behind{p, other.nets, other.nominal, {}};
            for (const PartIndex s : other.suspects)
                if (board.parts[s].partClass == PartClass::Processor) behind.processors.push_back(s);
            // Gates and control pins lead nowhere that carries power: only rails and what feeds parts count.
            if (behind.nominal || !behind.processors.empty() || other.suspects.size() >= 2)
                found.push_back(std::move(behind));
        }
    }
    return found;
}

} // namespace ustor
