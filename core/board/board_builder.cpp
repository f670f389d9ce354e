#include "board/board_builder.h"

#include "board/nominal_voltage.h"

namespace ustor {

BoardBuilder::BoardBuilder(Board& board) : m_board(board) {
    for (NetIndex i = 0; i < static_cast<NetIndex>(board.nets.size()); ++i)
        m_nets.emplace(board.nets[i].name, i);
    for (PartIndex i = 0; i < static_cast<PartIndex>(board.parts.size()); ++i)
        m_parts.emplace(board.parts[i].designator, i);
}

NetIndex BoardBuilder::net(const std::string& name) {
    if (name.empty() || name == "N/C") return -1;
    const auto [place, fresh] = m_nets.emplace(name, static_cast<NetIndex>(m_board.nets.size()));
    if (fresh) m_board.nets.push_back({name, isGroundName(name), nominalFromName(name), false});
    return place->second;
}

PartIndex BoardBuilder::part(const std::string& designator) {
    const auto [place, fresh] = m_parts.emplace(designator, static_cast<PartIndex>(m_board.parts.size()));
    if (fresh) {
        m_board.parts.emplace_back();
        m_board.parts.back().designator = designator;
    }
    return place->second;
}

PartIndex BoardBuilder::known(const std::string& designator) const {
    const auto found = m_parts.find(designator);
    return found == m_parts.end() ? -1 : found->second;
}

void BoardBuilder::warn(std::string_view file, int line, std::string what) {
    constexpr std::size_t enough = 200;
    if (m_board.warnings.size() < enough)
        m_board.warnings.push_back({std::string(file) + ":" + std::to_string(line), std::move(what)});
}

} // namespace ustor
