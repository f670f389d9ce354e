#pragma once

#include "board/board.h"

#include <map>
#include <string>

namespace ustor {

/// Finds or adds nets and parts of a board by their names while a file is read. Indexes what is there at the
/// start.
class BoardBuilder {
  public:
    explicit BoardBuilder(Board& board);
    /// The net of that name, with ground and working voltage guessed from it; -1 for no name and for "N/C".
    NetIndex net(const std::string& name);
    PartIndex part(const std::string& designator);
    PartIndex known(const std::string& designator) const; ///< -1 where no part has that name
    Part& partNamed(const std::string& designator) { return m_board.parts[part(designator)]; }
    /// Kept up to some hundreds: a file that is wrong in each line says so often enough.
    void warn(std::string_view file, int line, std::string what);

  private:
    Board& m_board;
    std::map<std::string, NetIndex> m_nets;
    std::map<std::string, PartIndex> m_parts;
};

} // namespace ustor
