#pragma once

#include "base/message.h"
#include "board/board.h"

#include <functional>
#include <string>
#include <string_view>
#include <unordered_map>

namespace ustor {

/// Finds or adds nets and parts of a board by their names while a file is read. Indexes what is there at the
/// start.
class BoardBuilder {
  public:
    explicit BoardBuilder(Board& board);
    /// The net of that name, with ground and working voltage guessed from it; -1 for no name and for "N/C".
    NetIndex net(std::string_view name);
    NetIndex knownNet(std::string_view name) const; ///< -1 where no net has that name
    PartIndex part(std::string_view designator);
    PartIndex known(std::string_view designator) const; ///< -1 where no part has that name
    Part& partNamed(std::string_view designator) { return m_board.parts[part(designator)]; }
    /// Kept up to some hundreds: a file that is wrong in each line says so often enough.
    void warn(std::string_view file, int line, Message what);

  private:
    struct Hash {
        using is_transparent = void; // names are looked up without making strings of them
        std::size_t operator()(std::string_view name) const { return std::hash<std::string_view>()(name); }
    };
    using Index = std::unordered_map<std::string, int, Hash, std::equal_to<>>;

    Board& m_board;
    Index m_nets, m_parts;
};

} // namespace ustor
