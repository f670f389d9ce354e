#include "board/pin_list.h"

#include "base/csv.h"
#include "base/number_text.h"
#include "board/board_builder.h"
#include "board/list_words.h"

#include <cmath>
#include <map>

namespace ustor {
namespace {

enum class PinColumn { Part, Pin, Net, X, Y, Side };

std::optional<PinColumn> pinColumnFor(std::string_view header) {
    std::string word = bareWord(header);
    if (unitIn(header) && (word.starts_with('x') || word.starts_with('y'))) word.resize(1);
    static const std::map<std::string, PinColumn> known{
        {"part", PinColumn::Part},
        {"ref", PinColumn::Part},
        {"refdes", PinColumn::Part},
        {"reference", PinColumn::Part},
        {"component", PinColumn::Part},
        {"designator", PinColumn::Part},
        {"pin", PinColumn::Pin},
        {"pad", PinColumn::Pin},
        {"pinnumber", PinColumn::Pin},
        {"net", PinColumn::Net},
        {"netname", PinColumn::Net},
        {"signal", PinColumn::Net},
        {"x", PinColumn::X},
        {"posx", PinColumn::X},
        {"y", PinColumn::Y},
        {"posy", PinColumn::Y},
        {"side", PinColumn::Side},
        {"layer", PinColumn::Side},
    };
    const auto found = known.find(word);
    return found == known.end() ? std::nullopt : std::optional(found->second);
}

struct Header {
    std::size_t row = 0;
    std::map<PinColumn, std::size_t> columns;
    double unit_mm = 1;
};

std::optional<Header> headerOf(const std::vector<CsvRow>& rows) {
    constexpr std::size_t within = 30;
    for (std::size_t i = 0; i < rows.size() && i < within; ++i) {
        Header header{i, {}, 1};
        for (std::size_t k = 0; k < rows[i].cells.size(); ++k) {
            std::string cell = rows[i].cells[k];
            if (k == 0 && cell.starts_with('#')) cell = trimmed(std::string_view(cell).substr(1));
            const auto column = pinColumnFor(cell);
            if (!column) continue;
            header.columns.emplace(*column, k);
            if (*column == PinColumn::X) header.unit_mm = unitIn(cell).value_or(1);
        }
        if (header.columns.contains(PinColumn::Part) && header.columns.contains(PinColumn::Pin) &&
            header.columns.contains(PinColumn::Net))
            return header;
    }
    return std::nullopt;
}

class PinReader {
  public:
    PinReader(std::string_view file, Header header, bool commaIsPoint)
        : m_file(file), m_header(std::move(header)), m_commaIsPoint(commaIsPoint) {}

    void take(const CsvRow& row) {
        if (row.cells.front().starts_with('#')) return;
        const std::string designator = cell(row, PinColumn::Part),
                          side = bareWord(cell(row, PinColumn::Side));
        Pad pad;
        pad.pin = cell(row, PinColumn::Pin);
        const auto x = lengthFromCell(cell(row, PinColumn::X), m_header.unit_mm, m_commaIsPoint);
        const auto y = lengthFromCell(cell(row, PinColumn::Y), m_header.unit_mm, m_commaIsPoint);
        if (designator.empty() || pad.pin.empty())
            return warn(row, say("part or pin is missing: row left out"));
        if (!x || !y) return warn(row, say("x or y cannot be read: row left out"));
        pad.at = {*x, *y};
        pad.through = side == "both" || side == "through" || side == "all";
        if (const auto known = pad.through ? std::optional(Side::Top) : sideFromWord(side))
            pad.side = *known;
        else
            warn(row, say("side '{side}' not known: taken as top", {{"side", side}}));
        pad.net = m_names.net(cell(row, PinColumn::Net));
        m_names.partNamed(designator).pads.push_back(pad);
        ++m_rows;
    }

    int rows() const { return m_rows; }
    Board& board() { return m_board; }

  private:
    std::string cell(const CsvRow& row, PinColumn column) const {
        const auto found = m_header.columns.find(column);
        return found == m_header.columns.end() || found->second >= row.cells.size()
                   ? std::string()
                   : row.cells[found->second];
    }
    void warn(const CsvRow& row, Message what) { m_names.warn(m_file, row.line, std::move(what)); }

    std::string_view m_file;
    Header m_header;
    bool m_commaIsPoint;
    Board m_board;
    BoardBuilder m_names{m_board};
    int m_rows = 0;
};

} // namespace

bool looksLikePinList(std::string_view text) {
    constexpr std::size_t start = 16384;
    text = text.substr(0, start);
    return headerOf(csvRows(text, csvSeparator(text))).has_value();
}

Result<Board> readPinList(std::string_view text, std::string_view fileName) {
    const char separator = csvSeparator(text);
    const auto rows = csvRows(text, separator);
    const auto header = headerOf(rows);
    if (!header)
        return Error{say("no header row that names part, pin and net"), std::string(fileName),
                     say("nothing was read")};
    PinReader reader(fileName, *header, separator != ',');
    for (std::size_t i = header->row + 1; i < rows.size(); ++i)
        reader.take(rows[i]);
    if (reader.rows() == 0)
        return Error{say("a header but no row that can be read"), std::string(fileName),
                     say("nothing was read")};
    return std::move(reader.board());
}

std::string writePinList(const Board& board) {
    std::string out = "part,pin,net,x,y,side\n";
    constexpr double digits = 1e4; // a tenth of a micrometre
    const auto length = [](double mm) { return textOfNumber(std::round(mm * digits) / digits); };
    for (const Part& part : board.parts)
        for (const Pad& pad : part.pads)
            out += csvCell(part.designator) + ',' + csvCell(pad.pin) + ',' +
                   (pad.net < 0 ? std::string() : csvCell(board.nets[pad.net].name)) + ',' +
                   length(pad.at.x_mm) + ',' + length(pad.at.y_mm) + ',' +
                   (pad.through ? "both" : std::string(wordOf(pad.side))) + '\n';
    return out;
}

} // namespace ustor
