#include "board/centroid_reader.h"

#include "base/csv.h"
#include "base/number_text.h"
#include "board/list_words.h"

#include <algorithm>
#include <array>
#include <map>

namespace ustor {
namespace {

enum class Column { Designator, Value, Package, X, Y, Rotation, Side };

std::optional<Column> columnFor(std::string_view header) {
    std::string word = bareWord(header);
    for (const std::string_view unit : {"mm", "mils", "mil", "inches", "inch"})
        if (word.size() > unit.size() && word.ends_with(unit)) {
            word.resize(word.size() - unit.size());
            break;
        }
    static const std::map<std::string, Column> known{
        {"designator", Column::Designator},
        {"refdes", Column::Designator},
        {"ref", Column::Designator},
        {"reference", Column::Designator},
        {"part", Column::Designator},
        {"val", Column::Value},
        {"value", Column::Value},
        {"comment", Column::Value},
        {"package", Column::Package},
        {"footprint", Column::Package},
        {"description", Column::Package},
        {"pattern", Column::Package},
        {"x", Column::X},
        {"posx", Column::X},
        {"midx", Column::X},
        {"centerx", Column::X},
        {"centrex", Column::X},
        {"xloc", Column::X},
        {"y", Column::Y},
        {"posy", Column::Y},
        {"midy", Column::Y},
        {"centery", Column::Y},
        {"centrey", Column::Y},
        {"yloc", Column::Y},
        {"rotation", Column::Rotation},
        {"rot", Column::Rotation},
        {"angle", Column::Rotation},
        {"side", Column::Side},
        {"layer", Column::Side},
        {"tb", Column::Side},
        {"topbottom", Column::Side},
    };
    const auto found = known.find(word);
    return found == known.end() ? std::nullopt : std::optional(found->second);
}

using Columns = std::map<Column, std::size_t>;

Columns columnsOf(const std::vector<std::string>& cells) {
    Columns columns;
    for (std::size_t i = 0; i < cells.size(); ++i)
        if (const auto column = columnFor(cells[i])) columns.emplace(*column, i);
    return columns;
}

bool usable(const Columns& columns) {
    return columns.contains(Column::Designator) && columns.contains(Column::X) && columns.contains(Column::Y);
}

/// A comment that says the unit of the lengths, as against one that merely holds such letters.
bool mentionsUnit(std::string_view text) {
    const std::string word = lowered(text);
    return word.find("unit") != std::string::npos || word.find("y in ") != std::string::npos ||
           word.find("coordinates in") != std::string::npos;
}

/// The header names the columns; some lists hide it behind a comment mark, and tell the unit in a comment
/// near it
/// ("# Unit = mm", "# X,Y in mm"). Where a list names no columns, nothing is guessed.
std::size_t findHeader(std::vector<CsvRow>& rows, Columns& columns, double& unit_mm) {
    std::size_t header = rows.size();
    for (std::size_t i = 0; i < rows.size(); ++i) {
        auto cells = rows[i].cells;
        const bool comment = cells.front().starts_with('#');
        if (comment) {
            const auto text = std::min(cells.front().find_first_not_of('#'), cells.front().size());
            cells.front() = cells.front().substr(text);
            if (cells.front().empty()) cells.erase(cells.begin()); // the mark stood alone
        }
        const auto found = columnsOf(cells);
        if (header == rows.size() && usable(found)) {
            columns = found;
            header = i;
            if (const auto unit = unitIn(cells[found.at(Column::X)])) unit_mm = *unit;
        } else if (comment) {
            std::string words;
            for (const std::string& cell : cells)
                words += cell + " ";
            if (const auto unit = unitIn(words); unit && mentionsUnit(words)) unit_mm = *unit;
        } else if (header != rows.size()) {
            break;
        }
    }
    return header;
}

} // namespace

Result<CentroidList> readCentroids(std::string_view text, std::string_view fileName) {
    const std::string file(fileName);
    const char separator = csvSeparator(text);
    auto rows = csvRows(text, separator);
    Columns columns;
    double unit_mm = 1.0;
    const std::size_t header = findHeader(rows, columns, unit_mm);
    if (header == rows.size())
        return Error{say("no header row that names designator, x and y"), file, say("nothing was read")};

    CentroidList list;
    for (std::size_t i = header + 1; i < rows.size(); ++i) {
        const CsvRow& row = rows[i];
        const std::string where = file + ":" + std::to_string(row.line);
        const auto cell = [&](Column column) {
            const auto found = columns.find(column);
            return found == columns.end() || found->second >= row.cells.size() ? std::string()
                                                                               : row.cells[found->second];
        };
        if (row.cells.front().starts_with('#')) continue;
        Centroid part;
        part.line = row.line;
        part.designator = cell(Column::Designator);
        part.value = cell(Column::Value);
        part.package = cell(Column::Package);
        const auto x = lengthFromCell(cell(Column::X), unit_mm, separator != ',');
        const auto y = lengthFromCell(cell(Column::Y), unit_mm, separator != ',');
        const auto side = sideFromWord(cell(Column::Side));
        if (part.designator.empty() || !x || !y) {
            list.warnings.push_back({where, say("designator, x or y cannot be read: row left out")});
            continue;
        }
        if (!side)
            list.warnings.push_back(
                {where, say("side '{word}' not known: taken as top", {{"word", cell(Column::Side)}})});
        part.at = {*x, *y};
        part.side = side.value_or(Side::Top);
        part.rotation_deg = lengthFromCell(cell(Column::Rotation), 1.0, separator != ',').value_or(0);
        list.rows.push_back(std::move(part));
    }
    if (list.rows.empty())
        return Error{say("a header but no row that can be read"), file, say("nothing was read")};
    return list;
}

} // namespace ustor
