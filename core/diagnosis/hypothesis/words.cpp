#include "diagnosis/hypothesis/words.h"

#include "board/chips.h"

#include <vector>

namespace ustor {
namespace {

Message sentenceOf(const Board& board, const Fault& fault) {
    const std::string part =
        fault.part >= 0 ? board.parts[static_cast<std::size_t>(fault.part)].designator : "";
    const auto name = [&board](NetIndex net) { return board.nets[static_cast<std::size_t>(net)].name; };
    switch (fault.kind) {
    case FaultKind::Short: {
        if (fault.mounting > 0)
            return say("{part} as it was put on again is shorted, itself or its solder", {{"part", part}});
        if (fault.through())
            return say("{part} is punched through from {from} to {to}",
                       {{"part", part}, {"from", name(fault.a)}, {"to", name(fault.b)}});
        // A chip lies on several rails.
        if (isChip(board.parts[static_cast<std::size_t>(fault.part)]))
            return say("{part} is shorted on {net}", {{"part", part}, {"net", name(fault.a)}});
        return say("{part} is shorted", {{"part", part}});
    }
    case FaultKind::Breakdown:
        return say("{part} is shorted, but only under voltage", {{"part", part}});
    case FaultKind::Open:
        return say("{part} is open", {{"part", part}});
    case FaultKind::Unlisted:
        return say("{net} is shorted by no part that is listed: laminate, solder", {{"net", name(fault.a)}});
    case FaultKind::Dead:
        return say("{part} is dead", {{"part", part}});
    case FaultKind::Nothing:
        return say("nothing electrical is wrong here");
    case FaultKind::Other:
        break;
    }
    return say("something that none of these says");
}

} // namespace

Message sentenceOf(const Board& board, std::span<const Fault> faults) {
    std::vector<Message> all;
    for (const Fault& fault : faults)
        all.push_back(sentenceOf(board, fault));
    if (all.size() == 2) return say("{first}, and {second}", {{"first", all[0]}, {"second", all[1]}});
    return joined(all, "; ");
}

} // namespace ustor
