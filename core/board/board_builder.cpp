#include "board/board_builder.h"

#include "board/nominal_voltage.h"

namespace ustor {

BoardBuilder::BoardBuilder(Board& board) : m_board(board) {
    for (NetIndex i = 0; i < static_cast<NetIndex>(board.nets.size()); ++i)
        m_nets.emplace(board.nets[i].name, i);
    for (PartIndex i = 0; i < static_cast<PartIndex>(board.parts.size()); ++i)
        m_parts.emplace(board.parts[i].designator, i);
}

NetIndex BoardBuilder::net(std::string_view name) {
    if (name.empty() || name == "N/C") return -1;
    if (const auto known = m_nets.find(name); known != m_nets.end()) return known->second;
    const auto index = static_cast<NetIndex>(m_board.nets.size());
    m_board.nets.push_back({std::string(name), isGroundName(name), nominalFromName(name), false});
    m_nets.emplace(name, index);
    return index;
}

NetIndex BoardBuilder::knownNet(std::string_view name) const {
    const auto found = m_nets.find(name);
    return found == m_nets.end() ? -1 : found->second;
}

PartIndex BoardBuilder::part(std::string_view designator) {
    if (const PartIndex index = known(designator); index >= 0) return index;
    const auto index = static_cast<PartIndex>(m_board.parts.size());
    m_board.parts.emplace_back();
    m_board.parts.back().designator = designator;
    m_parts.emplace(designator, index);
    return index;
}

PartIndex BoardBuilder::known(std::string_view designator) const {
    const auto found = m_parts.find(designator);
    return found == m_parts.end() ? -1 : found->second;
}

void BoardBuilder::warn(std::string_view file, int line, Message what) {
    constexpr std::size_t enough = 200;
    if (m_board.warnings.size() < enough)
        m_board.warnings.push_back({std::string(file) + ":" + std::to_string(line), std::move(what)});
}

} // namespace ustor
