#pragma once

#include "rail/stretch.h"

namespace ustor {

/// What injected current could reach through one shorted switch or converter.
struct Behind {
    PartIndex through = -1;            ///< the switch or converter
    std::vector<NetIndex> nets;        ///< the stretch on its other side
    std::optional<Volts> nominal;      ///< lowest working voltage there
    std::vector<PartIndex> processors; ///< processors fed from there
};

/// All stretches one MOSFET, switch or regulator away from this one. A shorted high-side switch passes what
/// is injected straight to them (common practice).
std::vector<Behind> stretchesBehind(const Board& board, const Stretch& stretch);

} // namespace ustor
