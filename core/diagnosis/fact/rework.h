#pragma once

#include "base/measurement.h"

#include <optional>
#include <string>

namespace ustor {

// What was done to the board, and what it was good for.

/// A cable, card or board was unplugged from a connector, or plugged in again.
struct Unplugged {
    std::string part;
    bool back = false;
};
struct Lifted {
    std::string part;
};
struct Refitted {
    std::string part;
    bool replaced = false; ///< a new part, not the old one
    std::string text;
};
/// The part's own reading on the bench, off the board.
struct PartMeasured {
    std::string part;
    bool shorted = false, open = false;
    std::optional<Reading> reading = {}; ///< what it was judged by, where it was noted
};
/// What was done to copper and solder.
enum class CopperWork {
    BridgeOpened, ///< solder, dirt or burnt laminate that conducted was taken away
    TraceCut,
    WireRun,
    PadMended
};
struct CopperWorked {
    CopperWork work = CopperWork::BridgeOpened;
    std::string place, to; ///< pads, parts or nets; `to` for wires
};
/// It worked and fails again, or failed at once: after which repair.
struct CameBack {
    std::string part; ///< that had been repaired; may be empty
    std::string text;
};
struct Closed {
    bool fixed = false;
    std::string culprit, text;
};

} // namespace ustor
