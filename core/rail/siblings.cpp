#include "rail/siblings.h"

#include "rail/stretch.h"

#include <algorithm>
#include <unordered_map>

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
    : m_board(board), m_parts(parts), m_looks(board.nets.size(), -1), m_stretches(board.nets.size(), -1) {
    constexpr int fewest = 3;
    std::vector<int> pads(board.nets.size(), 0);
    for (const Part& part : board.parts)
        for (const Pad& pad : part.pads)
            if (pad.net >= 0) ++pads[static_cast<std::size_t>(pad.net)];
    std::unordered_map<std::string, int> looks;
    for (NetIndex net = 0; net < static_cast<NetIndex>(board.nets.size()); ++net) {
        if (board.nets[net].ground || pads[static_cast<std::size_t>(net)] < fewest) continue;
        const int look = looks.try_emplace(lookOf(net), static_cast<int>(looks.size())).first->second;
        m_looks[static_cast<std::size_t>(net)] = look;
        m_alike.resize(looks.size());
        m_alike[static_cast<std::size_t>(look)].push_back(net);
    }
}

std::string Siblings::lookOf(NetIndex net) const {
    std::vector<std::string> lines;
    for (const PartIndex p : m_parts.on(net))
        for (const Pad& pad : m_board.parts[p].pads)
            if (pad.net == net) lines.push_back(lineOf(m_board.parts[p], pad));
    std::sort(lines.begin(), lines.end());
    const auto& nominal = m_board.nets[net].nominal;
    std::string look = nominal ? std::to_string(nominal->value) : std::string();
    for (const std::string& line : lines)
        look += "\n" + line;
    return look;
}

int Siblings::stretchOfNet(NetIndex net) {
    int& known = m_stretches[static_cast<std::size_t>(net)];
    if (known >= 0) return known;
    known = m_asked++;
    for (const NetIndex other : stretchOf(m_board, m_parts, net).nets)
        m_stretches[static_cast<std::size_t>(other)] = known;
    return known;
}

std::vector<NetIndex> Siblings::of(NetIndex net) {
    if (net < 0 || m_looks[static_cast<std::size_t>(net)] < 0) return {};
    const auto& alike = m_alike[static_cast<std::size_t>(m_looks[static_cast<std::size_t>(net)])];
    if (alike.size() < 2) return {};
    const int own = stretchOfNet(net);
    std::vector<NetIndex> siblings;
    for (const NetIndex other : alike)
        if (m_stretches[static_cast<std::size_t>(other)] != own) siblings.push_back(other);
    return siblings;
}

std::vector<NetIndex> siblingNets(const Board& board, NetIndex net) {
    const NetParts parts(board);
    return Siblings(board, parts).of(net);
}

} // namespace ustor
