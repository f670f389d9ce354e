#include "rail/net_parts.h"

namespace ustor {

NetParts::NetParts(const Board& board) : m_parts(board.nets.size()) {
    for (PartIndex p = 0; p < static_cast<PartIndex>(board.parts.size()); ++p) {
        m_byName.emplace(board.parts[p].designator, p);
        for (const Pad& pad : board.parts[p].pads)
            if (pad.net >= 0)
                if (auto& parts = m_parts[static_cast<std::size_t>(pad.net)];
                    parts.empty() || parts.back() != p)
                    parts.push_back(p);
    }
}

} // namespace ustor
