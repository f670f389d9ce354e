#pragma once

#include "rail/net_parts.h"

#include <set>
#include <string>
#include <vector>

namespace ustor {

/// Nets that hang together through links of nearly no resistance: a short on one reads as a short on all of
/// them.
struct Stretch {
    std::vector<NetIndex> nets;      ///< in board order, as `holds` relies on
    std::vector<PartIndex> links;    ///< parts that join them
    std::vector<PartIndex> suspects; ///< parts that could short the stretch to ground, in board order
    std::optional<Volts> nominal;    ///< the lowest of its nets' working voltages: the one that limits
    bool holds(NetIndex net) const;
};

/// What is known beyond the board: links that were lifted, switches that are known to conduct.
struct LinkState {
    std::set<std::string> lifted;         ///< designators that are off the board, or open
    std::set<std::string> closedSwitches; ///< MOSFETs or switches that conduct
};

/// True for parts that join two nets with nearly no resistance: fuse, ferrite, inductor, sense resistor.
bool isLink(const Part& part);

/// Parts with a pad on the stretch and one on ground that can fail short: no links, test points or mechanics.
bool couldShort(const Board& board, const Part& part, const std::vector<NetIndex>& nets);

/// The stretch around a net; grounds are never crossed. Empty when the net is ground or does not exist.
Stretch stretchOf(const Board& board, NetIndex net, const LinkState& state = {});
Stretch stretchOf(const Board& board, const NetParts& parts, NetIndex net, const LinkState& state = {});

/// Power nets, most connected first: not ground, and named by a voltage or decoupled by two capacitors to
/// ground.
std::vector<NetIndex> powerNets(const Board& board);
std::vector<NetIndex> powerNets(const Board& board, const NetParts& parts);

/// The nets a stretch is made of, joined for people: "VIN, VIN_F".
std::string nameOf(const Board& board, const Stretch& stretch);

} // namespace ustor
