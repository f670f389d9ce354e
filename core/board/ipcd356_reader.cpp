#include "board/ipcd356_reader.h"

#include "base/number_text.h"
#include "board/board_builder.h"

#include <cmath>
#include <map>
#include <string>

namespace ustor {
namespace {

/// Columns are counted from 1, as the standard prints them.
std::string_view columns(std::string_view line, std::size_t first, std::size_t last) {
    if (line.size() < first) return {};
    return line.substr(first - 1, last - first + 1);
}

char column(std::string_view line, std::size_t at) {
    return line.size() < at ? ' ' : line[at - 1];
}

class Reader {
  public:
    Reader(std::string_view text, std::string_view file) : m_text(text), m_file(file) {}

    Result<Board> read() {
        std::string_view rest = m_text;
        while (!rest.empty() && !m_ended) {
            const auto newline = rest.find('\n');
            std::string_view line = rest.substr(0, newline);
            rest.remove_prefix(newline == std::string_view::npos ? rest.size() : newline + 1);
            while (!line.empty() && (line.back() == '\r' || line.back() == ' '))
                line.remove_suffix(1);
            ++m_line;
            takeLine(line);
        }
        if (m_records == 0)
            return Error{say("no IPC-D-356A test record (317, 327) found"), std::string(m_file),
                         say("nothing was read")};
        if (!m_ended) warn(say("the closing record 999 is missing: the file may be cut off"));
        return std::move(m_board);
    }

  private:
    void takeLine(std::string_view line) {
        if (line.empty() || line.front() == 'C') return;
        if (line.front() == 'P') return takeParameter(line);
        if (line.starts_with("999")) {
            m_ended = true;
        } else if (line.starts_with("389") || line.starts_with("089")) {
            takeOutline(line.substr(3));
        } else if (line.starts_with("317") || line.starts_with("327") || line.starts_with("307") ||
                   line.starts_with("337") || line.starts_with("347") || line.starts_with("357")) {
            takeRecord(line);
        } else if (line.starts_with("017") || line.starts_with("027")) {
            return; // further access points of the same pad: the first one places it
        } else if (!knownButUnused(line)) {
            warn(say("unknown record '{record}' skipped", {{"record", line.substr(0, 3)}}));
        }
    }

    /// Tooling holes, conductor segments and adjacency: of no use for pads and nets.
    static bool knownButUnused(std::string_view line) {
        for (const std::string_view code :
             {"367", "370", "374", "378", "379", "380", "390", "078", "079", "090"})
            if (line.starts_with(code)) return true;
        return false;
    }

    void takeParameter(std::string_view line) {
        const std::string_view body = trimmed(line.substr(1));
        if (body.starts_with("UNITS")) {
            const std::string units = uppered(trimmed(body.substr(5)));
            if (units.starts_with("CUST 1") || units.starts_with("SI"))
                m_unit_mm = 0.001;
            else if (units.starts_with("CUST") || units.starts_with("ENG"))
                m_unit_mm = 0.00254;
            else
                warn(say("unit '{units}' not known: read as 0.0001 inch", {{"units", units}}));
        } else if (body.starts_with("JOB")) {
            m_board.name = std::string(trimmed(body.substr(3)));
        } else if (body.starts_with("NNAME")) {
            const auto blank = body.find_first_of(" \t");
            if (blank != std::string_view::npos)
                m_longNames[std::string(body.substr(0, blank))] = std::string(trimmed(body.substr(blank)));
        }
    }

    NetIndex netFor(std::string_view text) {
        std::string name(trimmed(text));
        if (const auto known = m_longNames.find(name); known != m_longNames.end()) name = known->second;
        return m_names.net(name);
    }

    /// A number in given columns, scaled to millimetres; blanks are zero.
    std::optional<double> millimetres(std::string_view text) const {
        text = trimmed(text);
        if (text.empty()) return 0.0;
        const auto number = integerFromText(text);
        return number ? std::optional(static_cast<double>(*number) * m_unit_mm) : std::nullopt;
    }

    void takeRecord(std::string_view line) {
        const auto x = column(line, 42) == 'X' ? integerFromText(columns(line, 43, 49)) : std::nullopt;
        const auto y = column(line, 50) == 'Y' ? integerFromText(columns(line, 51, 57)) : std::nullopt;
        if (!x || !y) return warn(say("no X and Y where columns 42 to 57 should hold them: record skipped"));
        const auto width = column(line, 58) == 'X' ? millimetres(columns(line, 59, 62)) : 0.0;
        const auto height = column(line, 63) == 'Y' ? millimetres(columns(line, 64, 67)) : 0.0;
        const auto hole = column(line, 33) == 'D' ? millimetres(columns(line, 34, 37)) : 0.0;
        if (!width || !height || !hole) return warn(say("a size that is not a number: record skipped"));
        ++m_records;

        Pad pad;
        pad.at = {static_cast<double>(*x) * m_unit_mm, static_cast<double>(*y) * m_unit_mm};
        pad.net = netFor(columns(line, 4, 17));
        pad.width_mm = *width;
        pad.height_mm = *height > 0 ? *height : *width; // a round pad gives its diameter once
        pad.hole_mm = *hole;
        pad.through = line[1] == '1' || *hole > 0;
        pad.side = trimmed(columns(line, 40, 41)) == "02" ? Side::Bottom : Side::Top;
        const std::string designator(trimmed(columns(line, 21, 26)));
        pad.pin = std::string(trimmed(columns(line, 28, 31)));
        if (designator.empty() || uppered(designator) == "VIA" || column(line, 32) == 'M') {
            m_board.vias.push_back({pad.at, pad.net, pad.hole_mm});
            return;
        }
        m_names.partNamed(designator).pads.push_back(pad);
    }

    /// "BOARD_EDGE X+001000Y+000000 X...": each coordinate that is left out repeats the one before.
    void takeOutline(std::string_view body) {
        BoardPoint at = m_board.outline.empty() ? BoardPoint{} : m_board.outline.back();
        std::size_t i = 0;
        bool any = false;
        const auto flush = [&] {
            if (any) m_board.outline.push_back(at);
            any = false;
        };
        while (i < body.size()) {
            const char letter = body[i];
            const auto digitsAt = i + 1;
            auto end = digitsAt;
            while (end < body.size() && (std::isdigit(static_cast<unsigned char>(body[end])) ||
                                         body[end] == '+' || body[end] == '-'))
                ++end;
            const auto number = (letter == 'X' || letter == 'Y') && end > digitsAt
                                    ? integerFromText(body.substr(digitsAt, end - digitsAt))
                                    : std::nullopt;
            if (number) {
                (letter == 'X' ? at.x_mm : at.y_mm) = static_cast<double>(*number) * m_unit_mm;
                any = true;
            } else if (letter == ' ') {
                flush();
            }
            i = std::max(end, i + 1);
        }
        flush();
    }

    void warn(Message what) { m_names.warn(m_file, m_line, std::move(what)); }

    std::string_view m_text, m_file;
    Board m_board;
    std::map<std::string, std::string> m_longNames;
    BoardBuilder m_names{m_board};
    double m_unit_mm = 0.00254; // 0.0001 inch, the standard's default
    int m_line = 0, m_records = 0;
    bool m_ended = false;
};

} // namespace

Result<Board> readIpcD356(std::string_view text, std::string_view fileName) {
    return Reader(text, fileName).read();
}

} // namespace ustor
