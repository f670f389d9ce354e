#pragma once

#include "base/random.h"
#include "board/board.h"

#include <vector>

namespace ustor::testing {

/// Something that conducts on a board of this world.
struct WorldElement {
    enum class Kind { Resistor, Diode };
    Kind kind = Kind::Resistor;
    NetIndex a = -1, b = -1; ///< -1: ground; a diode conducts from `a` to `b`
    double ohms = 1;         ///< of a diode that conducts: in series with its drop
    double drop_v = 0;
    PartIndex part = -1;               ///< taken off with it; -1: stays
    bool own = false;                  ///< what a rail takes by itself
    bool carries = false;              ///< part of the way of the power
    std::vector<PartIndex> warms = {}; ///< what gets its power as heat, where not `part`
};

/// A random board and the truth about it.
struct PowerBoard {
    Board board;
    enum class Role { Input, Main, Derived };
    struct Rail {
        NetIndex net = -1;
        Role role = Role::Derived;
        double volts = 0;
        bool core = false;
        bool waits = false; ///< comes up only when the board starts
        std::vector<PartIndex> consumers, capacitors;
    };
    std::vector<Rail> rails; ///< in the order in which they come up
    struct Feed {
        NetIndex from = -1, to = -1;
        std::vector<PartIndex> parts; ///< each must be there and alive
        std::vector<PartIndex> high;  ///< high sides, by phase
        PartIndex controller = -1;
    };
    std::vector<Feed> feeds;
    std::vector<WorldElement> elements;
    NetIndex jack = -1, main = -1;
    PartIndex fuse = -1, charger = -1;
    std::vector<PartIndex> clamps;
    const Rail* railOf(NetIndex net) const;
};

/// Connector, fuse, two switches, sense resistor, main rail, three to seven converters, linear regulators and
/// load switches; parts on both sides. On some boards no name tells a voltage, and processors are not named.
PowerBoard randomPowerBoard(Random& random);

} // namespace ustor::testing
