#include "board/gerber/aperture.h"

#include "base/number_text.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ustor::gerber {
namespace {

struct BadMacro {
    Message what;
};

/// A formula of an aperture macro: numbers, $n, + - x /, brackets, unary sign.
class Formula {
  public:
    Formula(std::string_view text, const std::map<int, double>& variables)
        : m_text(text), m_variables(variables) {}

    double value() {
        const double sum = added();
        if (m_at != m_text.size()) throw BadMacro{say("a formula of a macro cannot be read")};
        return sum;
    }

  private:
    char next() {
        while (m_at < m_text.size() && m_text[m_at] == ' ')
            ++m_at;
        return m_at < m_text.size() ? m_text[m_at] : '\0';
    }
    double added() {
        double sum = multiplied();
        for (char c = next(); c == '+' || c == '-'; c = next()) {
            ++m_at;
            sum += (c == '+' ? 1 : -1) * multiplied();
        }
        return sum;
    }
    double multiplied() {
        double product = single();
        for (char c = next(); c == 'x' || c == 'X' || c == '/'; c = next()) {
            ++m_at;
            const double factor = single();
            if (c == '/' && factor == 0) throw BadMacro{say("a formula of a macro divides by nought")};
            product = c == '/' ? product / factor : product * factor;
        }
        return product;
    }
    double single() {
        constexpr int deepest = 50;
        if (++m_depth > deepest) throw BadMacro{say("a formula of a macro is nested too deeply")};
        const char c = next();
        double result = 0;
        if (c == '-' || c == '+') {
            ++m_at;
            result = (c == '-' ? -1 : 1) * single();
        } else if (c == '(') {
            ++m_at;
            result = added();
            if (next() != ')') throw BadMacro{say("a bracket of a macro is not closed")};
            ++m_at;
        } else if (c == '$') {
            ++m_at;
            const auto found = m_variables.find(static_cast<int>(number()));
            result = found == m_variables.end() ? 0 : found->second; // by the format: unset is nought
        } else {
            result = number();
        }
        --m_depth;
        return result;
    }
    double number() {
        const std::size_t start = m_at;
        while (m_at < m_text.size() && ((m_text[m_at] >= '0' && m_text[m_at] <= '9') || m_text[m_at] == '.'))
            ++m_at;
        const auto read = numberFromText(m_text.substr(start, m_at - start));
        if (!read) throw BadMacro{say("a number is missing in a macro")};
        return *read;
    }

    std::string_view m_text;
    const std::map<int, double>& m_variables;
    std::size_t m_at = 0;
    int m_depth = 0;
};

std::vector<std::string_view> split(std::string_view text, char separator) {
    std::vector<std::string_view> pieces;
    for (;;) {
        const auto end = text.find(separator);
        pieces.push_back(trimmed(text.substr(0, end)));
        if (end == std::string_view::npos) return pieces;
        text.remove_prefix(end + 1);
    }
}

Paths turned(Path path, double degrees) {
    // Turned about the origin, and always anticlockwise: users write outlines either way.
    Placing placing;
    placing.turn_deg = degrees;
    Paths placed = placing.apply(Paths{std::move(path)});
    if (!ClipperLib::Orientation(placed[0])) std::reverse(placed[0].begin(), placed[0].end());
    return placed;
}

/// One primitive: measures after the exposure flag, lengths still in the file's unit.
class Primitive {
  public:
    Primitive(int code, std::vector<double> values, double unit_mm)
        : m_code(code), m_values(std::move(values)), m_unit_mm(unit_mm) {}

    bool dark() const { return m_code == thermal || m_values.empty() || m_values[0] != 0; }

    Paths shape() const {
        switch (m_code) {
        case 1:
            return turned(circle({mm(2), mm(3)}, mm(1)), m_values.size() > 4 ? at(4) : 0);
        case 20:
        case 2:
            return vectorLine();
        case 21:
            return turned(box({mm(3), mm(4)}, mm(1), mm(2)), at(5));
        case 22: // lower left corner; out of use, still met
            return turned(box({mm(3) + mm(1) / 2, mm(4) + mm(2) / 2}, mm(1), mm(2)), at(5));
        case 4:
            return outline();
        case 5:
            return turned(regularPolygon({mm(2), mm(3)}, mm(4), corners(1), 0), at(5));
        case thermal:
            return thermalRelief();
        default:
            throw BadMacro{say("primitive {code} of a macro is not known", {{"code", m_code}})};
        }
    }

  private:
    static constexpr int thermal = 7;
    double at(std::size_t i) const {
        if (i >= m_values.size()) throw BadMacro{say("a primitive of a macro has too few values")};
        return m_values[i];
    }
    double mm(std::size_t i) const { return at(i) * m_unit_mm; }
    int corners(std::size_t i) const {
        constexpr double most = 5000;
        if (!(at(i) >= 1 && at(i) <= most))
            throw BadMacro{say("a primitive of a macro has no sound number of corners")};
        return static_cast<int>(at(i));
    }

    Paths vectorLine() const {
        const double dx = mm(4) - mm(2), dy = mm(5) - mm(3), length = std::hypot(dx, dy), width = mm(1);
        const double nx = length > 0 ? -dy / length * width / 2 : 0,
                     ny = length > 0 ? dx / length * width / 2 : 0;
        return turned({nanometres(mm(2) - nx, mm(3) - ny), nanometres(mm(4) - nx, mm(5) - ny),
                       nanometres(mm(4) + nx, mm(5) + ny), nanometres(mm(2) + nx, mm(3) + ny)},
                      at(6));
    }
    Paths outline() const {
        const int count = corners(1);
        Path path;
        for (int i = 0; i < count; ++i)
            path.push_back(
                nanometres(mm(2 + 2 * static_cast<std::size_t>(i)), mm(3 + 2 * static_cast<std::size_t>(i))));
        return turned(std::move(path), at(4 + 2 * static_cast<std::size_t>(count)));
    }
    /// A ring cut by a cross: x, y, outer, inner, gap, turn; it has no exposure flag.
    Paths thermalRelief() const {
        const BoardPoint centre{mm(0), mm(1)};
        const double outer = mm(2), gap = mm(4);
        const Paths taken{circle(centre, mm(3)), box(centre, gap, 2 * outer), box(centre, 2 * outer, gap)};
        Placing placing;
        placing.turn_deg = at(5);
        return placing.apply(subtract({circle(centre, outer)}, unite(taken)));
    }

    int m_code;
    std::vector<double> m_values;
    double m_unit_mm;
};

Paths shapeOf(std::string_view body, const std::vector<double>& parameters, double unit_mm) {
    std::map<int, double> variables;
    for (std::size_t i = 0; i < parameters.size(); ++i)
        variables[static_cast<int>(i) + 1] = parameters[i];
    Paths shape;
    for (std::string_view block : split(body, '*')) {
        if (block.empty() || block.starts_with('0')) continue; // a comment
        if (block.starts_with('$')) {
            const auto equals = block.find('=');
            const auto index = integerFromText(trimmed(block.substr(1, equals - 1)));
            if (equals == std::string_view::npos || !index)
                throw BadMacro{say("a variable of a macro cannot be read")};
            variables[static_cast<int>(*index)] = Formula(block.substr(equals + 1), variables).value();
            continue;
        }
        const auto words = split(block, ',');
        const auto code = integerFromText(words.front());
        if (!code) throw BadMacro{say("a primitive of a macro has no number")};
        std::vector<double> values;
        for (std::size_t i = 1; i < words.size(); ++i)
            values.push_back(Formula(words[i], variables).value());
        const Primitive primitive(static_cast<int>(*code), values, unit_mm);
        const Paths piece = primitive.shape();
        if (primitive.dark()) {
            shape.insert(shape.end(), piece.begin(), piece.end());
            shape = unite(shape);
        } else {
            shape = subtract(shape, piece);
        }
    }
    return shape;
}

} // namespace

std::optional<Paths> Macro::shape(const std::vector<double>& parameters, double unit_mm,
                                  Message& trouble) const {
    try {
        return shapeOf(m_body, parameters, unit_mm);
    } catch (const BadMacro& bad) {
        trouble = bad.what;
        return std::nullopt;
    }
}

} // namespace ustor::gerber
