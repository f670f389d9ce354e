#pragma once

#include <string>
#include <string_view>

namespace ustor::gerber {

/// A command of a Gerber file: one block of plain code, or all that stands between two per cent signs.
struct Word {
    std::string text; ///< without the closing star; line ends are taken out
    bool extended = false;
    int line = 0;
};

/// Cuts a Gerber text into its commands.
class Words {
  public:
    explicit Words(std::string_view text) : m_text(text) {}
    /// The next command; false at the end. `cutOff` tells that the text ended inside of it.
    bool next(Word& word);
    bool cutOff() const { return m_cutOff; }

  private:
    std::string_view m_text;
    std::size_t m_at = 0;
    int m_line = 1;
    bool m_cutOff = false;
};

} // namespace ustor::gerber
