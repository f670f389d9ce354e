#pragma once

#include "board/board.h"

#include <string>
#include <unordered_map>
#include <vector>

namespace ustor {

/// Which parts touch which net, and which has which name, for whoever asks often: boards have tens of
/// thousands of pads. It holds for a board whose parts, pads and nets stay; their classes and voltages may
/// change.
class NetParts {
  public:
    explicit NetParts(const Board& board);
    /// In board order, each once.
    const std::vector<PartIndex>& on(NetIndex net) const { return m_parts[static_cast<std::size_t>(net)]; }
    /// The part of this designator, written as the board writes it; -1 where there is none.
    PartIndex named(const std::string& designator) const {
        const auto found = m_byName.find(designator);
        return found == m_byName.end() ? -1 : found->second;
    }

  private:
    std::vector<std::vector<PartIndex>> m_parts;
    std::unordered_map<std::string, PartIndex> m_byName; ///< of several the first
};

} // namespace ustor
