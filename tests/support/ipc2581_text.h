#pragma once

#include "board/board.h"

#include <string>

namespace ustor::testing {

/// How a writer words what the revisions leave open.
struct Ipc2581Dialect {
    char revision = 'C'; ///< 'B': stacks of pads are called PadStack; 'C': PadStackDef
    std::string units = "MILLIMETER";
    bool turnFirst = false;   ///< bottom parts: turned before they are mirrored
    bool mirrorWord = true;   ///< else only the layer says that a part is mirrored
    bool pinsOnCopper = true; ///< pads of the copper name part and pin
};

/// A board as an IPC-2581 file, after the published standard from memory: profile, stack-up, packages,
/// components, values, nets, pads, copper and holes. Parts of one package text must have the same pads in
/// their own frame.
std::string ipc2581Text(const Board& board, const Ipc2581Dialect& dialect = {});

/// A board of many parts made up by rule: rows of chips with six pads each, traces, planes and vias on four
/// layers.
Board manyParts(int parts, int padsEach);

} // namespace ustor::testing
