#pragma once

#include <string>
#include <string_view>
#include <vector>

namespace ustor {

/// One row of a table of text, with the line of the file where it ends.
struct CsvRow {
    int line = 0;
    std::vector<std::string> cells; ///< trimmed, quotes removed
};

/// The separator that a table uses, told from its first lines: comma, semicolon or tab, or a blank where
/// columns are aligned by blanks alone.
char csvSeparator(std::string_view text);

/// Rows of a comma-separated text (RFC 4180 with any of these separators); blank rows are left out.
std::vector<CsvRow> csvRows(std::string_view text, char separator);

/// One cell, quoted where it has to be.
std::string csvCell(std::string_view text);

} // namespace ustor
