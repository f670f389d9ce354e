#include "base/input_bounds.h"
#include "board/gerber/drill_file.h"

#include "base/number_text.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <optional>

namespace ustor::gerber {
namespace {

class HoleReader {
  public:
    HoleReader(std::string_view text, std::string_view file) : m_rest(text), m_file(file) {}

    Result<DrillFile> read() {
        while (!m_rest.empty() && !m_ended) {
            const auto end = std::min(m_rest.find('\n'), m_rest.size());
            const std::string_view line = trimmed(m_rest.substr(0, end));
            m_rest.remove_prefix(std::min(end + 1, m_rest.size()));
            ++m_line;
            if (!line.empty()) take(line);
        }
        if (m_tools.empty() && m_out.holes.empty() && !m_ended)
            return Error{say("no tool and no hole found"), std::string(m_file), say("nothing was read")};
        if (!m_ended) warn(say("the end (M30) is missing: the file may be cut off"));
        return std::move(m_out);
    }

  private:
    void take(std::string_view line) {
        if (line.front() == ';') return takeComment(line.substr(1));
        if (line == "%" || line == "M95") {
            m_header = false;
        } else if (line == "M48") {
            m_header = true;
        } else if (line.starts_with("INCH") || line.starts_with("METRIC") || line == "M71" || line == "M72") {
            takeUnit(line);
        } else if (line == "M30" || line == "M00") {
            m_ended = true;
        } else if (line.starts_with("FMAT") || line.starts_with("ICI") || line.starts_with("VER") ||
                   line.starts_with("DETECT") || line.starts_with("ATC")) {
            return; // the format's version and the machine's habits: nothing for us
        } else if (line.front() == 'T') {
            takeTool(line);
        } else if (line.front() == 'G' || line.front() == 'M') {
            takeCode(line);
        } else if (line.front() == 'X' || line.front() == 'Y') {
            takePlace(line);
        } else if (line.front() == 'R') {
            takeRepeat(line);
        } else if (!m_header) {
            warn(say("'{command}' is not known: skipped", {{"command", line.substr(0, 20)}}));
        }
    }

    void takeComment(std::string_view comment) {
        const std::string text = uppered(comment);
        if (const auto at = text.find("FILE_FORMAT="); at != std::string::npos && at + 14 < text.size()) {
            const int whole = text[at + 12] - '0', decimals = text[at + 14] - '0';
            constexpr int most = 9;
            if (whole >= 0 && whole <= most && decimals >= 0 && decimals <= most) {
                m_whole = whole;
                m_decimals = decimals;
            }
        }
        if (text.find("TYPE=PLATED") != std::string::npos) m_out.plating = Plating::Plated;
        if (text.find("TYPE=NON_PLATED") != std::string::npos) m_out.plating = Plating::NonPlated;
        // "#@! TF.FileFunction,Plated,1,4,PTH"
        const auto function = text.find("FILEFUNCTION,");
        if (function == std::string::npos) return;
        const std::string_view rest = std::string_view(text).substr(function + 13);
        m_out.plating = rest.starts_with("PLATED") ? Plating::Plated : Plating::NonPlated;
        const auto first = rest.find(','),
                   second = first == std::string_view::npos ? first : rest.find(',', first + 1);
        if (second == std::string_view::npos) return;
        const auto low = integerFromText(rest.substr(first + 1, second - first - 1));
        const auto high = integerFromText(rest.substr(second + 1, rest.find(',', second + 1) - second - 1));
        constexpr long mostLayers = 200;
        if (low && high && *low >= 1 && *high >= *low && *high <= mostLayers) {
            m_out.firstLayer = static_cast<int>(*low);
            m_out.lastLayer = static_cast<int>(*high);
        }
    }

    void takeUnit(std::string_view line) {
        const bool metric = line.starts_with("METRIC") || line == "M71";
        m_unit_mm = metric ? 1 : inch_mm;
        if (line.find("LZ") != std::string_view::npos) m_leadingKept = true;
        if (line.find("TZ") != std::string_view::npos) m_leadingKept = false;
        // "METRIC,TZ,000.000" tells the digits by example.
        const auto example = line.rfind(',');
        const auto point = line.find('.', example == std::string_view::npos ? line.size() : example);
        if (point != std::string_view::npos) {
            m_whole = static_cast<int>(point - example - 1);
            m_decimals = static_cast<int>(line.size() - point - 1);
        } else if (m_decimals < 0) {
            m_whole = metric ? 3 : 2;
        }
    }

    void takeTool(std::string_view line) {
        const auto digits = std::min(line.find_first_not_of("0123456789", 1), line.size());
        const auto number = integerFromText(line.substr(1, digits - 1));
        if (!number) return warn(say("a tool without a number: skipped"));
        const auto size = line.find('C', digits);
        if (size == std::string_view::npos) {
            m_tool = *number;
            if (m_tool != 0 && !m_tools.contains(m_tool) && !m_header)
                warn(say("tool T{tool} was not defined: its holes are left out", {{"tool", m_tool}}));
            return;
        }
        const auto end = std::min(line.find_first_not_of("0123456789.", size + 1), line.size());
        const auto diameter = numberFromText(line.substr(size + 1, end - size - 1));
        constexpr double largest = 100;
        if (!diameter || *diameter < 0 || *diameter * m_unit_mm > largest)
            return warn(say("tool T{number} has no sound diameter: skipped", {{"number", *number}}));
        m_tools[*number] = *diameter * m_unit_mm;
        if (!m_header) m_tool = *number;
    }

    void takeCode(std::string_view line) {
        const auto digits = std::min(line.find_first_not_of("0123456789", 1), line.size());
        const auto number = integerFromText(line.substr(1, digits - 1));
        const std::string_view rest = trimmed(line.substr(digits));
        if (!number) return warn(say("a code without a number: skipped"));
        if (line.front() == 'M') {
            if (*number == 15) m_down = true;
            if (*number == 16 || *number == 17) m_down = false;
            return;
        }
        switch (*number) {
        case 0:
            m_routing = true;
            move(rest);
            break;
        case 1:
            if (const BoardPoint from = m_at; move(rest) && m_down) hole(from, m_at);
            break;
        case 5:
        case 81:
            m_routing = false;
            if (!rest.empty()) takePlace(rest);
            break;
        case 85:
            break; // a slot's second end without its first: told where it is met
        case 90:
            m_incremental = false;
            break;
        case 91:
            m_incremental = true;
            break;
        case 2:
        case 3:
            if (const BoardPoint from = m_at; move(rest) && m_down) {
                hole(from, m_at);
                warn(say("an arc of a router is taken as straight"));
            }
            break;
        default:
            if (!m_header) warn(say("G{number} is not known: skipped", {{"number", *number}}));
        }
    }

    void takePlace(std::string_view line) {
        const auto slot = line.find("G85");
        if (!move(line.substr(0, slot))) return;
        if (slot != std::string_view::npos) {
            const BoardPoint from = m_at;
            if (move(line.substr(slot + 3))) hole(from, m_at);
        } else if (!m_routing) {
            hole(m_at, m_at);
        }
    }

    /// "R5X1.0": the last hole again, five times, each further by the step.
    void takeRepeat(std::string_view line) {
        const auto digits = std::min(line.find_first_not_of("0123456789", 1), line.size());
        const auto count = integerFromText(line.substr(1, digits - 1));
        const BoardPoint start = m_at;
        m_at = {};
        constexpr long most = 100000;
        if (!count || *count > most || !move(line.substr(digits))) {
            m_at = start;
            return warn(say("a repeat that cannot be read: skipped"));
        }
        const BoardPoint step = m_at;
        m_at = start;
        for (long i = 0; i < *count; ++i) {
            m_at = {m_at.x_mm + step.x_mm, m_at.y_mm + step.y_mm};
            hole(m_at, m_at);
        }
    }

    bool move(std::string_view text) {
        std::optional<double> x, y;
        std::size_t at = 0;
        while (at < text.size()) {
            const char letter = text[at++];
            const auto end = std::min(text.find_first_not_of("+-.0123456789", at), text.size());
            const auto number = length(text.substr(at, end - at));
            at = end;
            if (letter == 'X')
                x = number;
            else if (letter == 'Y')
                y = number;
            else
                continue; // depth, feed, arc radius
            if (!number) return warn(say("a coordinate that is not a number: hole left out")), false;
        }
        BoardPoint to = m_incremental ? BoardPoint{m_at.x_mm + x.value_or(0), m_at.y_mm + y.value_or(0)}
                                      : BoardPoint{x.value_or(m_at.x_mm), y.value_or(m_at.y_mm)};
        if (std::fabs(to.x_mm) > bounds::place_mm || std::fabs(to.y_mm) > bounds::place_mm)
            return warn(say("a place more than ten metres away: hole left out")), false;
        m_at = to;
        return true;
    }

    std::optional<double> length(std::string_view digits) const {
        bool negative = false;
        if (!digits.empty() && (digits.front() == '+' || digits.front() == '-')) {
            negative = digits.front() == '-';
            digits.remove_prefix(1);
        }
        double value = 0;
        if (digits.find('.') != std::string_view::npos) {
            const auto number = numberFromText(digits);
            if (!number) return std::nullopt;
            value = *number;
        } else {
            const auto number = integerFromText(digits);
            if (!number) return std::nullopt;
            const int decimals = m_decimals >= 0 ? m_decimals : m_unit_mm == 1 ? 3 : 4;
            const int shift = m_leadingKept ? static_cast<int>(digits.size()) - m_whole : decimals;
            value = static_cast<double>(*number) * std::pow(10, -shift);
        }
        return (negative ? -value : value) * m_unit_mm;
    }

    void hole(BoardPoint from, BoardPoint to) {
        const auto tool = m_tools.find(m_tool);
        constexpr std::size_t most = 2'000'000;
        if (tool == m_tools.end() || m_out.holes.size() >= most) return;
        m_out.holes.push_back({from, to, tool->second});
    }

    void warn(Message what) {
        constexpr std::size_t enough = 200;
        if (m_out.warnings.size() < enough)
            m_out.warnings.push_back({std::string(m_file) + ":" + std::to_string(m_line), std::move(what)});
    }

    static constexpr double inch_mm = 25.4;
    std::string_view m_rest, m_file;
    DrillFile m_out;
    std::map<long, double> m_tools;
    long m_tool = 0;
    double m_unit_mm = inch_mm;
    int m_whole = 2, m_decimals = -1; ///< decimals below zero: not said
    bool m_leadingKept = false, m_incremental = false, m_header = false, m_ended = false, m_routing = false,
         m_down = false;
    BoardPoint m_at;
    int m_line = 0;
};

} // namespace

Result<DrillFile> readDrill(std::string_view text, std::string_view fileName) {
    return HoleReader(text, fileName).read();
}

bool looksLikeDrill(std::string_view text) {
    constexpr std::size_t start = 8192;
    text = text.substr(0, start);
    return text.starts_with("M48") || text.find("\nM48") != std::string_view::npos || trimmed(text) == "M30";
}

} // namespace ustor::gerber
