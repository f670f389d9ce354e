#include "board/ipc2581/xml_source.h"
#include "base/input_bounds.h"

#include "base/number_text.h"

#include <algorithm>
#include <cmath>

namespace ustor::ipc2581 {

Result<XmlSource> XmlSource::parse(std::string_view text, std::string_view fileName) {
    XmlSource source;
    source.m_file = std::string(fileName);
    source.m_text = text;
    source.m_document = std::make_shared<pugi::xml_document>();
    const auto parsed = source.m_document->load_buffer(text.data(), text.size());
    const auto where = [&] { return source.m_file + ":" + std::to_string(source.lineOf(parsed.offset)); };
    const std::string_view root = source.root().name();
    if (root != "IPC-2581")
        return Error{parsed ? say("the root element is not IPC-2581")
                            : say("not well-formed XML: {fault}", {{"fault", parsed.description()}}),
                     where(), say("nothing was read")};
    if (!parsed)
        source.m_warnings.push_back({where(), say("the XML ends here: {fault}; what stands before is kept",
                                                  {{"fault", parsed.description()}})});
    return source;
}

XmlSource XmlSource::another() const {
    XmlSource source;
    source.m_document = m_document;
    source.m_file = m_file;
    source.m_text = m_text;
    return source;
}

int XmlSource::lineOf(std::ptrdiff_t offset) {
    if (m_lineStarts.empty()) {
        m_lineStarts.push_back(0);
        for (std::size_t i = m_text.find('\n'); i != std::string_view::npos; i = m_text.find('\n', i + 1))
            m_lineStarts.push_back(static_cast<std::ptrdiff_t>(i) + 1);
    }
    const auto after = std::upper_bound(m_lineStarts.begin(), m_lineStarts.end(), offset);
    return static_cast<int>(after - m_lineStarts.begin());
}

void XmlSource::warn(pugi::xml_node where, Message what) {
    constexpr std::size_t enough = 200;
    if (m_warnings.size() < enough)
        m_warnings.push_back({m_file + ":" + std::to_string(lineOf(where.offset_debug())), std::move(what)});
}

double XmlSource::number(pugi::xml_node node, const char* attribute, double otherwise) {
    const pugi::xml_attribute found = node.attribute(attribute);
    if (!found) return otherwise;
    const auto value = numberFromText(found.value());
    // A kilometre in any unit is a broken file.
    constexpr double most = 1e9;
    if (value && std::fabs(*value) <= most) return *value;
    warn(node, say("{attribute} of {node} is not a number that can be: '{value}'",
                   {{"attribute", attribute},
                    {"node", node.name()},
                    {"value", std::string(found.value()).substr(0, 40)}}));
    return otherwise;
}

BoardPoint XmlSource::point(pugi::xml_node node, const char* x, const char* y, double unit_mm) {
    using bounds::place_mm;
    const BoardPoint at{number(node, x) * unit_mm, number(node, y) * unit_mm};
    if (std::fabs(at.x_mm) <= place_mm && std::fabs(at.y_mm) <= place_mm) return at;
    warn(node, say("{node} lies more than ten metres away: taken as the origin", {{"node", node.name()}}));
    return {};
}

std::optional<double> unitFromWord(std::string_view word) {
    if (word == "MILLIMETER") return 1.0;
    if (word == "MICRON") return 0.001;
    if (word == "INCH") return 25.4;
    return std::nullopt;
}

} // namespace ustor::ipc2581
