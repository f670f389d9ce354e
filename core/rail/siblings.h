#pragma once

#include "rail/net_parts.h"

#include <optional>
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
    /// Kinds, values and pins of what is on a net, sorted.
    using Look = std::vector<std::string>;
    const Look& lookOf(NetIndex net);

    const Board& m_board;
    const NetParts& m_parts;
    std::vector<int> m_pads; ///< by net, how many
    std::vector<std::optional<Look>> m_looks;
};

} // namespace ustor
