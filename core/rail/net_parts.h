#pragma once

#include "board/board.h"

#include <vector>

namespace ustor {

/// Which parts touch which net, for whoever asks often: boards have tens of thousands of pads. It holds for a
/// board whose parts, pads and nets stay; their classes and voltages may change.
class NetParts {
  public:
    explicit NetParts(const Board& board);
    /// In board order, each once.
    const std::vector<PartIndex>& on(NetIndex net) const { return m_parts[static_cast<std::size_t>(net)]; }

  private:
    std::vector<std::vector<PartIndex>> m_parts;
};

} // namespace ustor
