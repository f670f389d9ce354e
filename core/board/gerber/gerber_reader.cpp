#include "base/input_bounds.h"
#include "board/gerber/aperture.h"
#include "board/gerber/gerber_file.h"
#include "board/gerber/gerber_words.h"
#include "board/plane/crossings.h"

#include "base/number_text.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <memory>
#include <optional>

namespace ustor::gerber {
namespace {

/// How numbers without a decimal point are meant.
struct CoordinateFormat {
    int whole = 2, decimals = 4;
    bool trailingOmitted = false, incremental = false;
};

/// A stroke that goes on until pen, polarity or place change.
struct OpenStroke {
    std::vector<BoardPoint> line;
    const Aperture* pen = nullptr;
};

using Attributes = std::map<std::string, std::string>;

constexpr std::size_t mostObjects = 1'000'000;

class Reader {
  public:
    Reader(std::string_view text, std::string_view file) : m_words(text), m_file(file) {}

    Result<GerberFile> read() {
        Word word;
        while (!m_ended && m_words.next(word)) {
            m_line = word.line;
            if (word.extended)
                takeExtended(word.text);
            else
                takePlain(word.text);
        }
        endStroke();
        closeRepeat();
        if (m_understood == 0)
            return Error{say("not a Gerber file"), std::string(m_file), say("nothing was read")};
        if (m_words.cutOff() || !m_ended) warn(say("the end (M02) is missing: the file may be cut off"));
        if (!m_region.empty()) warn(say("a region is not closed (G37 is missing): left out"));
        return std::move(m_out);
    }

  private:
    // Extended commands, which may hold several blocks.
    void takeExtended(const std::string& text) {
        endStroke();
        if (text.starts_with("AM")) return takeMacro(text);
        std::string_view rest = text;
        while (!rest.empty()) {
            const auto end = std::min(rest.find('*'), rest.size());
            const std::string_view block = trimmed(rest.substr(0, end));
            rest.remove_prefix(std::min(end + 1, rest.size()));
            if (!block.empty()) takeBlock(block);
        }
    }

    void takeMacro(const std::string& text) {
        const auto star = text.find('*');
        if (star == std::string::npos) return warn(say("a macro without a body: skipped"));
        m_macros.insert_or_assign(std::string(trimmed(std::string_view(text).substr(2, star - 2))),
                                  Macro(text.substr(star + 1)));
        ++m_understood;
    }

    void takeBlock(std::string_view block) {
        const std::string_view code = block.substr(0, 2),
                               body = block.substr(std::min<std::size_t>(2, block.size()));
        ++m_understood;
        if (code == "FS") return takeFormat(body);
        if (code == "MO") return takeUnit(body);
        if (code == "AD") return takeAperture(body);
        if (code == "LP") {
            m_dark = !body.starts_with('C');
        } else if (code == "LM") {
            m_placing.mirrorX = body == "X" || body == "XY";
            m_placing.mirrorY = body == "Y" || body == "XY";
        } else if (code == "LR") {
            m_placing.turn_deg = numberFromText(body).value_or(0);
        } else if (code == "LS") {
            const double scale = numberFromText(body).value_or(1);
            m_placing.scale = scale > 0 ? scale : 1;
        } else if (code == "SR") {
            takeRepeat(body);
        } else if (code == "AB") {
            takeApertureBlock(body);
        } else if (code == "TF") {
            const auto [name, value] = attribute(body);
            m_out.attributes[name] = value;
        } else if (code == "TA") {
            const auto [name, value] = attribute(body);
            m_penAttributes[name] = value;
        } else if (code == "TO") {
            const auto [name, value] = attribute(body);
            m_objectAttributes[name] = value;
        } else if (code == "TD") {
            forget(attribute(body).first);
        } else if (code == "IP") {
            m_out.negative = body == "NEG";
        } else if (code == "LN" || code == "IN") {
            return; // names, for people
        } else if (code == "OF" || code == "SF" || code == "IR" || code == "AS" || code == "MI") {
            // Out of use, and harmless as long as they change nothing.
            const bool nothing = body.empty() || body == "A0B0" || body == "A1B1" || body == "0" ||
                                 body == "AXBY" || body == "A1.0B1.0" || body == "A0.0B0.0";
            if (!nothing) warn(say("'{block}' is out of use and not followed", {{"block", block}}));
        } else {
            --m_understood;
            warn(say("unknown command '{code}' skipped", {{"code", code}}));
        }
    }

    static std::pair<std::string, std::string> attribute(std::string_view body) {
        const auto comma = body.find(',');
        std::string name(trimmed(body.substr(0, comma)));
        if (name.starts_with('.')) name.erase(0, 1);
        return {name, comma == std::string_view::npos ? std::string()
                                                      : std::string(trimmed(body.substr(comma + 1)))};
    }

    void forget(const std::string& name) {
        if (name.empty()) {
            m_penAttributes.clear();
            m_objectAttributes.clear();
        }
        m_penAttributes.erase(name);
        m_objectAttributes.erase(name);
    }

    void takeFormat(std::string_view body) {
        m_format.trailingOmitted = body.find('T') != std::string_view::npos;
        m_format.incremental = body.find('I') != std::string_view::npos;
        const auto x = body.find('X');
        const auto digit = [&](std::size_t at) {
            return at < body.size() && body[at] >= '0' && body[at] <= '9' ? body[at] - '0' : -1;
        };
        if (x == std::string_view::npos || digit(x + 1) < 0 || digit(x + 2) < 0)
            return warn(say("the coordinate format cannot be read: taken as 2.4"));
        m_format.whole = digit(x + 1);
        m_format.decimals = digit(x + 2);
    }

    void takeUnit(std::string_view body) {
        if (body == "MM")
            m_unit_mm = 1;
        else if (body == "IN")
            m_unit_mm = inch_mm;
        else
            warn(say("unit '{unit}' is not known: inches are taken", {{"unit", body}}));
    }

    void takeAperture(std::string_view body) {
        const auto digits = body.find_first_not_of("0123456789", 1);
        const auto number = digits == std::string_view::npos || body.front() != 'D'
                                ? std::nullopt
                                : integerFromText(body.substr(1, digits - 1));
        constexpr long first = 10;
        if (!number || *number < first) return warn(say("an aperture without a number from 10 on: skipped"));
        Message trouble;
        auto aperture = apertureFrom(body.substr(digits), m_unit_mm, m_macros, trouble);
        if (!aperture) return warn(say("{trouble}: what it draws is left out", {{"trouble", trouble}}));
        const auto function = m_penAttributes.find("AperFunction");
        if (function != m_penAttributes.end()) aperture->function = function->second;
        m_apertures[*number] = std::make_unique<Aperture>(std::move(*aperture));
        m_blocks.erase(*number);
    }

    // Step and repeat: what stands between is collected, then laid down in rows and columns.
    void takeRepeat(std::string_view body) {
        closeRepeat();
        const auto value = [&](char letter) -> double {
            const auto at = body.find(letter);
            if (at == std::string_view::npos) return 0;
            const auto end = std::min(body.find_first_not_of("+-.0123456789", at + 1), body.size());
            return numberFromText(body.substr(at + 1, end - at - 1)).value_or(0);
        };
        m_repeat = {value('X'), value('Y'), value('I') * m_unit_mm, value('J') * m_unit_mm};
        if (m_repeat.columns <= 1 && m_repeat.rows <= 1) return;
        m_repeating = true;
        m_collected.emplace_back();
    }

    void closeRepeat() {
        if (!m_repeating || m_collected.empty()) return;
        m_repeating = false;
        const std::vector<GraphicObject> once = std::move(m_collected.back());
        m_collected.pop_back();
        constexpr double most = 10000; // copies on the largest panel
        if (!(m_repeat.columns * m_repeat.rows <= most))
            return warn(say("a repeat without sound numbers: skipped"));
        for (int column = 0; column < static_cast<int>(m_repeat.columns); ++column)
            for (int row = 0; row < static_cast<int>(m_repeat.rows); ++row) {
                Placing placing;
                placing.shift = {column * m_repeat.dx_mm, row * m_repeat.dy_mm};
                if (!place(once, placing)) return;
            }
    }

    bool place(const std::vector<GraphicObject>& objects, const Placing& placing) {
        for (const GraphicObject& object : objects) {
            GraphicObject copy = object;
            copy.shape = placing.apply(object.shape);
            copy.at = placing.apply(object.at);
            if (!draw(std::move(copy))) return false;
        }
        return true;
    }

    // Aperture blocks: a collected drawing that is flashed like an aperture.
    void takeApertureBlock(std::string_view body) {
        if (body.starts_with('D')) {
            const auto number = integerFromText(body.substr(1));
            constexpr std::size_t deepest = 20;
            if (!number || m_openBlocks.size() >= deepest)
                return warn(say("a block without a sound number: skipped"));
            m_openBlocks.push_back(*number);
            m_collected.emplace_back();
        } else {
            closeRepeat();
            if (m_openBlocks.empty() || m_collected.empty())
                return warn(say("a block ends that did not start"));
            m_blocks[m_openBlocks.back()] = std::move(m_collected.back());
            m_apertures.erase(m_openBlocks.back());
            m_openBlocks.pop_back();
            m_collected.pop_back();
        }
    }

    // Plain code: letters with numbers, "G01X100Y200D01".
    void takePlain(const std::string& text) {
        if (text.starts_with("G04") || text.starts_with("G4 ")) return takeComment(text);
        std::optional<double> x, y, i, j;
        std::optional<int> operation;
        std::size_t at = 0;
        while (at < text.size()) {
            const char letter = text[at++];
            if (letter == ' ') continue;
            const auto end = std::min(text.find_first_not_of("+-.0123456789", at), text.size());
            const std::string_view digits = std::string_view(text).substr(at, end - at);
            at = end;
            const auto number = integerFromText(digits.starts_with('+') ? digits.substr(1) : digits);
            switch (letter) {
            case 'G':
                if (number) takeG(static_cast<int>(*number));
                break;
            case 'D':
                if (number) takeD(*number, operation);
                break;
            case 'M':
                m_ended = number && (*number == 2 || *number == 0 || *number == 30);
                m_understood += m_ended;
                break;
            case 'X':
                x = coordinate(digits);
                break;
            case 'Y':
                y = coordinate(digits);
                break;
            case 'I':
                i = coordinate(digits);
                break;
            case 'J':
                j = coordinate(digits);
                break;
            case 'N':
                break; // a sequence number
            default:
                warn(say("'{letter}' is not Gerber code: skipped", {{"letter", letter}}));
                return;
            }
        }
        if (x || y || i || j || operation)
            operate(x, y, {i.value_or(0), j.value_or(0)}, operation.value_or(m_operation));
    }

    /// X2 attributes may stand in comments for readers that do not know them: "G04 #@! TF.FileFunction,...".
    void takeComment(const std::string& text) {
        const auto mark = text.find("#@!");
        ++m_understood;
        if (mark == std::string::npos) return;
        const std::string_view inner = trimmed(std::string_view(text).substr(mark + 3));
        if (inner.starts_with("TF") || inner.starts_with("TA") || inner.starts_with("TO") ||
            inner.starts_with("TD"))
            takeBlock(inner);
    }

    std::optional<double> coordinate(std::string_view digits) {
        if (digits.find('.') != std::string_view::npos) {
            const auto number = numberFromText(digits.starts_with('+') ? digits.substr(1) : digits);
            return number ? std::optional(*number * m_unit_mm) : std::nullopt;
        }
        bool negative = false;
        if (!digits.empty() && (digits.front() == '+' || digits.front() == '-')) {
            negative = digits.front() == '-';
            digits.remove_prefix(1);
        }
        const auto number = integerFromText(digits);
        if (!number) {
            warn(say("a coordinate that is not a number: left out"));
            return std::nullopt;
        }
        int decimals = m_format.decimals;
        if (m_format.trailingOmitted) decimals = static_cast<int>(digits.size()) - m_format.whole;
        const double value = static_cast<double>(*number) * std::pow(10, -decimals) * m_unit_mm;
        return negative ? -value : value;
    }

    void takeG(int code) {
        ++m_understood;
        switch (code) {
        case 1:
        case 2:
        case 3:
            m_interpolation = code;
            break;
        case 36:
            endStroke();
            m_inRegion = true;
            m_region.clear();
            break;
        case 37:
            endRegion();
            break;
        case 70:
            m_unit_mm = inch_mm;
            break;
        case 71:
            m_unit_mm = 1;
            break;
        case 74:
            m_singleQuadrant = true;
            break;
        case 75:
            m_singleQuadrant = false;
            break;
        case 90:
            m_format.incremental = false;
            break;
        case 91:
            m_format.incremental = true;
            break;
        case 54:
        case 55:
            break; // "select" and "flash" in front of a D code: say nothing of their own
        default:
            --m_understood;
            warn(say("G{code} is not known: skipped", {{"code", code}}));
        }
    }

    void takeD(long number, std::optional<int>& operation) {
        constexpr long firstAperture = 10;
        ++m_understood;
        if (number >= firstAperture) {
            endStroke();
            m_current = number;
        } else if (number >= 1 && number <= 3) {
            operation = m_operation = static_cast<int>(number);
        }
    }

    void operate(std::optional<double> x, std::optional<double> y, BoardPoint centre, int operation) {
        BoardPoint to = m_at;
        if (m_format.incremental)
            to = {m_at.x_mm + x.value_or(0), m_at.y_mm + y.value_or(0)};
        else
            to = {x.value_or(m_at.x_mm), y.value_or(m_at.y_mm)};
        if (std::fabs(to.x_mm) > bounds::place_mm || std::fabs(to.y_mm) > bounds::place_mm)
            return warn(say("a place more than ten metres away: left out"));
        if (operation == 1)
            line(to, centre);
        else if (operation == 2)
            moveTo();
        else
            flash(to);
        m_at = to;
    }

    void moveTo() {
        if (!m_inRegion) return endStroke();
        closeContour();
    }

    void line(BoardPoint to, BoardPoint centre) {
        std::vector<BoardPoint> points{to};
        if (m_interpolation != 1) points = arcTo(to, centre);
        if (m_inRegion) {
            if (m_region.empty()) m_region.push_back(m_at);
            m_region.insert(m_region.end(), points.begin(), points.end());
            return;
        }
        const auto pen = m_apertures.find(m_current);
        if (pen == m_apertures.end()) return missingPen();
        if (m_stroke.pen && m_stroke.pen != pen->second.get()) endStroke();
        m_stroke.pen = pen->second.get();
        if (m_stroke.line.empty()) m_stroke.line.push_back(m_at);
        m_stroke.line.insert(m_stroke.line.end(), points.begin(), points.end());
    }

    std::vector<BoardPoint> arcTo(BoardPoint to, BoardPoint offset) const {
        const bool clockwise = m_interpolation == 2;
        if (!m_singleQuadrant)
            return arcPoints(m_at, to, {m_at.x_mm + offset.x_mm, m_at.y_mm + offset.y_mm}, clockwise);
        if (m_at == to) return {to};
        // In the single quadrant mode the signs of I and J are missing: the centre with equal radii whose arc
        // is at most a quarter.
        BoardPoint best{};
        double least = 1e300;
        for (const double sx : {1.0, -1.0})
            for (const double sy : {1.0, -1.0}) {
                const BoardPoint c{m_at.x_mm + sx * std::fabs(offset.x_mm),
                                   m_at.y_mm + sy * std::fabs(offset.y_mm)};
                const double ax = m_at.x_mm - c.x_mm, ay = m_at.y_mm - c.y_mm, bx = to.x_mm - c.x_mm,
                             by = to.y_mm - c.y_mm;
                const double cross = (ax * by - ay * bx) * (clockwise ? -1 : 1), dot = ax * bx + ay * by;
                const double slack = 1e-6 * (ax * ax + ay * ay);
                if (cross < -slack || dot < -slack) continue; // more than a quarter, or the other way round
                const double error = std::fabs(std::hypot(ax, ay) - std::hypot(bx, by));
                if (error < least) {
                    least = error;
                    best = c;
                }
            }
        return least < 1e300 ? arcPoints(m_at, to, best, clockwise) : std::vector<BoardPoint>{to};
    }

    void closeContour() {
        constexpr std::size_t fewest = 3;
        if (m_region.size() >= fewest) {
            Path path;
            for (const BoardPoint p : m_region)
                path.push_back(nanometres(p.x_mm, p.y_mm));
            // Either way round: within one contour what is enclosed is filled.
            // The format forbids it (its published specification, from memory); slips of a drawing program
            // are mended.
            constexpr std::size_t mostCrossings = 1000;
            if (plane::crossesItself(path, mostCrossings)) {
                warn(say("a contour of a region crosses itself more than a thousand times: left out"));
            } else {
                Paths filled;
                ClipperLib::SimplifyPolygon(path, filled, ClipperLib::pftNonZero);
                m_contours.insert(m_contours.end(), filled.begin(), filled.end());
            }
        }
        m_region.clear();
    }

    void endRegion() {
        closeContour();
        m_inRegion = false;
        if (m_contours.empty()) return;
        GraphicObject object;
        object.shape = std::move(m_contours);
        m_contours.clear();
        const auto function = m_penAttributes.find("AperFunction");
        if (function != m_penAttributes.end()) object.function = function->second;
        draw(std::move(object), true);
    }

    void endStroke() {
        if (!m_stroke.pen || m_stroke.line.empty()) return;
        const Aperture& pen = *m_stroke.pen;
        GraphicObject object;
        object.function = pen.function;
        if (pen.round_mm > 0) {
            object.pen_mm = pen.round_mm * m_placing.scale;
            object.shape = stroke(m_stroke.line, object.pen_mm);
        } else if (!pen.shape.empty()) {
            if (!pen.convex && !m_oddPenTold) {
                m_oddPenTold = true;
                warn(say("a stroke with an odd aperture: drawn with its outer hull"));
            }
            object.shape = drag(pen.shape.front(), m_stroke.line);
        }
        m_stroke = {};
        // A pen of no width draws nothing: outlines are drawn so in some files.
        if (!object.shape.empty()) draw(std::move(object), true);
    }

    void flash(BoardPoint to) {
        endStroke();
        if (m_inRegion) return warn(say("a flash inside a region: left out"));
        Placing placing = m_placing;
        placing.shift = to;
        if (const auto block = m_blocks.find(m_current); block != m_blocks.end()) {
            const std::vector<GraphicObject> objects = block->second;
            place(objects, placing);
            return;
        }
        const auto pen = m_apertures.find(m_current);
        if (pen == m_apertures.end()) return missingPen();
        GraphicObject object;
        object.shape = placing.apply(pen->second->shape);
        object.flash = true;
        object.at = to;
        object.function = pen->second->function;
        draw(std::move(object), true);
    }

    void missingPen() {
        if (m_missing.emplace(m_current, m_line).second)
            warn(say("aperture D{current} was not defined: what it draws is left out",
                     {{"current", m_current}}));
    }

    /// Into the file, or into the block that is being collected; `fresh` objects take the current attributes.
    bool draw(GraphicObject object, bool fresh = false) {
        if (++m_drawn > mostObjects) {
            if (m_drawn == mostObjects + 1) warn(say("more than a million objects: the rest is left out"));
            return false;
        }
        if (fresh) {
            object.dark = m_dark;
            const auto value = [this](const char* name) {
                const auto found = m_objectAttributes.find(name);
                return found == m_objectAttributes.end() ? std::string() : found->second;
            };
            object.net = value("N");
            const std::string pin = value("P");
            const auto comma = pin.find(',');
            if (comma != std::string::npos) {
                object.part = pin.substr(0, comma);
                object.pin = pin.substr(comma + 1, pin.find(',', comma + 1) - comma - 1);
            }
        }
        (m_collected.empty() ? m_out.objects : m_collected.back()).push_back(std::move(object));
        return true;
    }

    void warn(Message what) {
        constexpr std::size_t enough = 200;
        if (m_out.warnings.size() < enough)
            m_out.warnings.push_back({std::string(m_file) + ":" + std::to_string(m_line), std::move(what)});
    }

    struct Repeat {
        double columns = 1, rows = 1, dx_mm = 0, dy_mm = 0;
    };
    static constexpr double inch_mm = 25.4;

    Words m_words;
    std::string_view m_file;
    GerberFile m_out;
    CoordinateFormat m_format;
    double m_unit_mm = inch_mm;
    std::map<std::string, Macro> m_macros;
    std::map<long, std::unique_ptr<Aperture>> m_apertures;
    std::map<long, std::vector<GraphicObject>> m_blocks;
    std::map<long, int> m_missing;
    Attributes m_penAttributes, m_objectAttributes;
    std::vector<std::vector<GraphicObject>> m_collected; ///< open blocks and repeats, innermost last
    std::vector<long> m_openBlocks;
    Repeat m_repeat;
    bool m_repeating = false;
    OpenStroke m_stroke;
    std::vector<BoardPoint> m_region;
    Paths m_contours;
    Placing m_placing;
    BoardPoint m_at;
    long m_current = -1;
    int m_interpolation = 1, m_operation = 2, m_line = 0;
    std::size_t m_drawn = 0, m_understood = 0;
    bool m_dark = true, m_inRegion = false, m_singleQuadrant = false, m_ended = false, m_oddPenTold = false;
};

} // namespace

Paths GerberFile::picture() const {
    Paths whole;
    std::vector<const Paths*> batch;
    bool dark = true;
    const auto flush = [&] {
        if (batch.empty()) return;
        if (dark) {
            const Paths before = std::move(whole);
            batch.push_back(&before);
            whole = unite(batch);
        } else {
            whole = subtract(whole, unite(batch));
        }
        batch.clear();
    };
    for (const GraphicObject& object : objects) {
        if (object.dark != dark) flush();
        dark = object.dark;
        batch.push_back(&object.shape);
    }
    flush();
    return whole;
}

Result<GerberFile> readGerber(std::string_view text, std::string_view fileName) {
    return Reader(text, fileName).read();
}

bool looksLikeGerber(std::string_view text) {
    constexpr std::size_t start = 8192;
    text = text.substr(0, start);
    for (const std::string_view mark : {"%FS", "%MO", "%ADD", "%TF.", "G04 #@! TF"})
        if (text.find(mark) != std::string_view::npos) return true;
    return false;
}

} // namespace ustor::gerber
