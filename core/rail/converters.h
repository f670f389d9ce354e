#pragma once

#include "board/board.h"

#include <vector>

namespace ustor {

/// One phase of a switching converter, told from how its parts hang together.
struct Converter {
    enum class Kind { Down, Up };
    Kind kind = Kind::Down;
    NetIndex input = -1, output = -1, switchNode = -1;
    PartIndex inductor = -1;
    std::vector<PartIndex> highSide, lowSide; ///< the controller itself where the switches are inside it
    PartIndex controller = -1;                ///< -1 where none is seen
};

/// Up is told by a diode in the place of the high side: with two switches both ways are built alike, and Down
/// is assumed. All converters around inductors whose one end is a switch node: a net without capacitors of
/// its own to ground that switches, diodes or a controller pull between the input and ground. In order of
/// their inductors.
std::vector<Converter> convertersOf(const Board& board);

/// Other phases: same input, same output, and same controller where both have one. Indices into the list.
std::vector<int> phasesOf(const std::vector<Converter>& converters, int which);

/// A linear regulator: one chip between two power nets, without a switch node.
struct LinearRegulator {
    PartIndex part = -1;
    NetIndex input = -1, output = -1; ///< the higher working voltage is the input
};
std::vector<LinearRegulator> linearRegulatorsOf(const Board& board, const std::vector<Converter>& converters);

} // namespace ustor
