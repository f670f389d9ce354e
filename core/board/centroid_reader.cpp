#include "board/centroid_reader.h"

#include "base/csv.h"
#include "base/number_text.h"

#include <algorithm>
#include <array>
#include <map>

namespace ustor {
namespace {

enum class Column { Designator, Value, Package, X, Y, Rotation, Side };

/// Only letters and digits, lower case: "Mid X (mm)" becomes "midxmm".
std::string bare(std::string_view text) {
    std::string out;
    for (const char c : lowered(text))
        if ((c >= 'a' && c <= 'z') || (c >= '0' && c <= '9')) out += c;
    return out;
}

std::optional<Column> columnFor(std::string_view header) {
    std::string word = bare(header);
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
    return word.find("unit") != std::string::npos || trimmed(word).starts_with("y in ") ||
           word.find("coordinates in") != std::string::npos;
}

std::optional<double> unitIn(std::string_view text) {
    const std::string word = lowered(text);
    if (word.find("mil") != std::string::npos && word.find("millim") == std::string::npos) return 0.0254;
    if (word.find("inch") != std::string::npos || word.ends_with("in") ||
        word.find("(in)") != std::string::npos)
        return 25.4;
    if (word.find("mm") != std::string::npos || word.find("millim") != std::string::npos) return 1.0;
    return std::nullopt;
}

/// A length with an optional unit behind it, in millimetres.
std::optional<double> lengthOf(std::string text, double unit_mm, bool commaIsPoint) {
    if (commaIsPoint) std::replace(text.begin(), text.end(), ',', '.');
    const auto letter = text.find_first_of("abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ\"");
    if (letter != std::string::npos) {
        const auto own = text[letter] == '"' ? std::optional(25.4) : unitIn(text.substr(letter));
        if (!own) return std::nullopt;
        unit_mm = *own;
        text.resize(letter);
    }
    const auto number = numberFromText(text);
    return number ? std::optional(*number * unit_mm) : std::nullopt;
}

std::optional<Side> sideOf(std::string_view text) {
    const std::string word = bare(text);
    if (word.empty() || word.starts_with('t') || word == "1" || word.starts_with("front") || word == "f" ||
        word == "fcu")
        return Side::Top;
    if (word.starts_with("bo") || word.starts_with("back") || word == "b" || word == "2" || word == "bcu" ||
        word == "solder")
        return Side::Bottom;
    return std::nullopt;
}

/// The header names the columns; some lists hide it behind a comment mark, and tell the unit in a comment
/// near it
/// ("# Unit = mm", "# X,Y in mm"). Where a list names no columns, nothing is guessed.
std::size_t findHeader(std::vector<CsvRow>& rows, Columns& columns, double& unit_mm) {
    std::size_t header = rows.size();
    for (std::size_t i = 0; i < rows.size(); ++i) {
        auto cells = rows[i].cells;
        const bool comment = cells.front().starts_with('#');
        if (comment) cells.front() = cells.front().substr(1);
        const auto found = columnsOf(cells);
        if (header == rows.size() && usable(found)) {
            columns = found;
            header = i;
            if (const auto unit = unitIn(cells[found.at(Column::X)])) unit_mm = *unit;
        } else if (comment) {
            for (const std::string& cell : cells)
                if (const auto unit = unitIn(cell); unit && mentionsUnit(cell)) unit_mm = *unit;
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
        return Error{"no header row that names designator, x and y", file, "nothing was read"};

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
        const auto x = lengthOf(cell(Column::X), unit_mm, separator != ',');
        const auto y = lengthOf(cell(Column::Y), unit_mm, separator != ',');
        const auto side = sideOf(cell(Column::Side));
        if (part.designator.empty() || !x || !y) {
            list.warnings.push_back({where, "designator, x or y cannot be read: row left out"});
            continue;
        }
        if (!side)
            list.warnings.push_back({where, "side '" + cell(Column::Side) + "' not known: taken as top"});
        part.at = {*x, *y};
        part.side = side.value_or(Side::Top);
        part.rotation_deg = lengthOf(cell(Column::Rotation), 1.0, separator != ',').value_or(0);
        list.rows.push_back(std::move(part));
    }
    if (list.rows.empty()) return Error{"a header but no row that can be read", file, "nothing was read"};
    return list;
}

} // namespace ustor
