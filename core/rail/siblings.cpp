#include "rail/siblings.h"

#include "rail/stretch.h"

#include <algorithm>

namespace ustor {
namespace {

/// What a pad says of the net it is on; big chips count by kind alone, since each bank sits on other pins.
std::string lineOf(const Part& part, const Pad& pad) {
    constexpr std::size_t few = 8;
    std::string line = std::string(wordOf(part.partClass)) + "/" + part.value;
    if (part.pads.size() <= few) line += "/" + pad.pin;
    return line;
}

} // namespace

Siblings::Siblings(const Board& board, const NetParts& parts)
    : m_board(board), m_parts(parts), m_pads(board.nets.size(), 0), m_looks(board.nets.size()) {
    for (const Part& part : board.parts)
        for (const Pad& pad : part.pads)
            if (pad.net >= 0) ++m_pads[static_cast<std::size_t>(pad.net)];
}

const Siblings::Look& Siblings::lookOf(NetIndex net) {
    auto& look = m_looks[static_cast<std::size_t>(net)];
    if (look) return *look;
    look.emplace();
    for (const PartIndex p : m_parts.on(net))
        for (const Pad& pad : m_board.parts[p].pads)
            if (pad.net == net) look->push_back(lineOf(m_board.parts[p], pad));
    std::sort(look->begin(), look->end());
    return *look;
}

std::vector<NetIndex> Siblings::of(NetIndex net) {
    constexpr int fewest = 3;
    const auto pads = [this](NetIndex n) { return m_pads[static_cast<std::size_t>(n)]; };
    if (net < 0 || m_board.nets[net].ground || pads(net) < fewest) return {};
    const Stretch stretch = stretchOf(m_board, m_parts, net);
    std::vector<NetIndex> siblings;
    for (NetIndex other = 0; other < static_cast<NetIndex>(m_board.nets.size()); ++other)
        if (other != net && !m_board.nets[other].ground && pads(other) == pads(net) &&
            m_board.nets[other].nominal == m_board.nets[net].nominal && !stretch.holds(other) &&
            lookOf(other) == lookOf(net))
            siblings.push_back(other);
    return siblings;
}

std::vector<NetIndex> siblingNets(const Board& board, NetIndex net) {
    const NetParts parts(board);
    return Siblings(board, parts).of(net);
}

} // namespace ustor
