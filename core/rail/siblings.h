#pragma once

#include "rail/net_parts.h"

#include <string>
#include <vector>

namespace ustor {

/// Nets that ought to read like this one because the board is built alike around them: the same kinds, values
/// and pins of parts on them, three or more, and the same working voltage. Like channels of one converter,
/// like ports, like memory banks. Nets that hang on this one through links are the same rail, and no
/// siblings.
std::vector<NetIndex> siblingNets(const Board& board, NetIndex net);

/// The same for whoever asks for many nets of one board. Board and parts must outlive it; it holds until a
/// class or a voltage changes.
class Siblings {
  public:
    Siblings(const Board& board, const NetParts& parts);
    std::vector<NetIndex> of(NetIndex net);

  private:
    /// Kinds, values and pins of what is on a net, sorted, and its working voltage.
    std::string lookOf(NetIndex net) const;
    int stretchOfNet(NetIndex net);

    const Board& m_board;
    const NetParts& m_parts;
    std::vector<int> m_looks; ///< by net: equal ones are built alike; -1: too few pads, or ground
    std::vector<std::vector<NetIndex>> m_alike; ///< by look, in order
    std::vector<int> m_stretches; ///< by net: equal ones hang together through links; -1: not yet asked
    int m_asked = 0;
};

} // namespace ustor
