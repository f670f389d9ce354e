#pragma once

#include "base/message.h"
#include "base/points.h"
#include "base/result.h"
#include "board/board.h"

#include <cstring>
#include <memory>
#include <optional>
#include <pugixml.hpp>
#include <string>
#include <string_view>
#include <vector>

namespace ustor::ipc2581 {

/// The XML of a file with what is needed to speak about its lines.
class XmlSource {
  public:
    /// Parses as far as the text is well formed; what stops it is a warning, as long as the root is IPC-2581.
    /// The text must stay as long as warnings are given.
    static Result<XmlSource> parse(std::string_view text, std::string_view fileName);

    /// The same file with warnings of its own, for another thread.
    XmlSource another() const;

    pugi::xml_node root() const { return m_document->first_child(); }
    /// Kept up to some hundreds.
    void warn(pugi::xml_node where, Message what);
    std::vector<BoardWarning> takeWarnings() { return std::move(m_warnings); }

    /// A number of an attribute; `otherwise` where it is missing. What is no finite number of a sensible size
    /// is told and taken as missing.
    double number(pugi::xml_node node, const char* attribute, double otherwise = 0);
    /// Millimetres from two attributes in a unit.
    BoardPoint point(pugi::xml_node node, const char* x, const char* y, double unit_mm);

  private:
    XmlSource() = default;
    int lineOf(std::ptrdiff_t offset);

    std::shared_ptr<pugi::xml_document> m_document;
    std::string m_file;
    std::string_view m_text;
    std::vector<std::ptrdiff_t> m_lineStarts; ///< found when the first warning asks
    std::vector<BoardWarning> m_warnings;
};

/// Millimetres of a unit as files name it: MILLIMETER, MICRON, INCH; nothing for others.
std::optional<double> unitFromWord(std::string_view word);

/// Calls with each child of a name, "" for all elements.
template <class F> void forChildren(pugi::xml_node node, const char* name, F with) {
    for (pugi::xml_node child = node.first_child(); child; child = child.next_sibling())
        if ((!*name || std::strcmp(child.name(), name) == 0) && child.type() == pugi::node_element)
            with(child);
}

} // namespace ustor::ipc2581
