#include "rail/switch_pins.h"

#include <algorithm>
#include <tuple>

namespace ustor {

SwitchPins switchPinsOf(const Board& board, const NetParts& parts, PartIndex which) {
    const Part& part = board.parts[which];
    SwitchPins pins;
    NetIndex named = -1;
    for (const Pad& pad : part.pads) {
        if (pad.net < 0) continue;
        if (pad.pin == "G" || pad.pin == "B") named = pad.net;
        if (std::find(pins.power.begin(), pins.power.end(), pad.net) == pins.power.end())
            pins.power.push_back(pad.net);
    }
    const bool transistor = part.partClass == PartClass::Mosfet;
    if (named < 0 && transistor && pins.power.size() >= 3) {
        const auto weight = [&](NetIndex net) {
            const auto pads = std::count_if(part.pads.begin(), part.pads.end(),
                                            [net](const Pad& pad) { return pad.net == net; });
            // Ground and rails steer nothing.
            const bool rail = board.nets[net].ground || board.nets[net].nominal.has_value();
            return std::tuple(rail, pads, parts.on(net).size());
        };
        named = *std::min_element(pins.power.begin(), pins.power.end(),
                                  [&](NetIndex a, NetIndex b) { return weight(a) < weight(b); });
    }
    if (named >= 0 && pins.power.size() >= 2) {
        pins.control = named;
        std::erase(pins.power, named);
    }
    return pins;
}

} // namespace ustor
