#include "diagnosis/fact/case_state.h"

namespace ustor {

PartIndex partNamed(const CaseState& state, const std::string& designator) {
    const PartIndex named = state.netParts->named(designator);
    return named >= 0 ? named : state.board.findPart(designator);
}

NetIndex netOfPlace(const Board& board, const std::string& place) {
    if (place.find('.') == std::string::npos) {
        if (const PartIndex part = board.findPart(place); part >= 0)
            for (const Pad& pad : board.parts[part].pads)
                if (pad.net >= 0 && !board.nets[pad.net].ground) return pad.net;
    } else if (const auto pad = board.findPad(place)) {
        return board.pad(*pad).net;
    }
    return board.findNet(place);
}

NetIndex netOfPlace(const Board& board, const NetParts& parts, const std::string& place) {
    // As the board writes it, mostly.
    const auto dot = place.rfind('.');
    if (dot != std::string::npos)
        if (const PartIndex part = parts.named(place.substr(0, dot)); part >= 0)
            for (const Pad& pad : board.parts[part].pads)
                if (place.compare(dot + 1, std::string::npos, pad.pin) == 0) return pad.net;
    return netOfPlace(board, place);
}

std::optional<double> injectedVolts(const CaseState& state, const CaseState::TakenHeat& heat) {
    for (auto at = state.injections.rbegin(); at != state.injections.rend(); ++at)
        if (heat.found.injection > 0 ? at->first == heat.found.injection : at->first < heat.fact)
            return at->second.volts;
    return std::nullopt;
}

Message sentenceOn(const Board& board, const FactBody& body) {
    Message sentence = sentenceOf(body);
    const auto* taken = std::get_if<ReadingTaken>(&body);
    const NetIndex net = taken ? netOfPlace(board, taken->place) : -1;
    if (net < 0 || board.nets[net].name == taken->place) return sentence;
    return say("{sentence} ({net})", {{"sentence", sentence}, {"net", board.nets[net].name}});
}

} // namespace ustor
