#include "diagnosis/case_state.h"

namespace ustor {

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

std::string sentenceOn(const Board& board, const FactBody& body) {
    std::string sentence = sentenceOf(body);
    if (const auto* taken = std::get_if<ReadingTaken>(&body))
        if (const NetIndex net = netOfPlace(board, taken->place);
            net >= 0 && board.nets[net].name != taken->place)
            sentence += " (" + board.nets[net].name + ")";
    return sentence;
}

} // namespace ustor
