#include "base/csv.h"

#include "base/number_text.h"

#include <algorithm>
#include <csv.h>

namespace ustor {
namespace {

struct Collector {
    std::vector<CsvRow> rows;
    CsvRow row;
    int line = 1;
    bool blanks = false; ///< any number of blanks is one separator
};

void onCell(void* data, size_t size, void* target) {
    auto* collector = static_cast<Collector*>(target);
    const std::string_view text =
        data ? std::string_view(static_cast<const char*>(data), size) : std::string_view();
    collector->row.cells.emplace_back(trimmed(text));
}

void onRow(int, void* target) {
    auto* collector = static_cast<Collector*>(target);
    collector->row.line = collector->line;
    if (collector->blanks) std::erase(collector->row.cells, std::string());
    const auto filled = [](const std::string& cell) { return !cell.empty(); };
    if (std::any_of(collector->row.cells.begin(), collector->row.cells.end(), filled))
        collector->rows.push_back(std::move(collector->row));
    collector->row = {};
}

} // namespace

/// True when most lines of a text are words set apart by blanks alone, in columns.
static bool alignedByBlanks(std::string_view text) {
    int lines = 0, aligned = 0;
    while (!text.empty()) {
        const auto newline = std::min(text.find('\n'), text.size());
        int words = 0;
        for (std::size_t i = 0; i < newline; ++i)
            words += text[i] != ' ' && text[i] != '\r' && (i == 0 || text[i - 1] == ' ');
        constexpr int columns = 5;
        lines += words > 0;
        aligned += words >= columns;
        text.remove_prefix(std::min(newline + 1, text.size()));
    }
    return lines > 0 && 2 * aligned > lines;
}

char csvSeparator(std::string_view text) {
    const std::string_view head = text.substr(0, 4096);
    char best = ',';
    long most = 0;
    // Semicolons and tabs are asked first: a decimal comma would outvote them otherwise.
    for (const char candidate : {'\t', ';', ','}) {
        const long count = std::count(head.begin(), head.end(), candidate);
        if (count > most && (candidate != ',' || most == 0)) {
            best = candidate;
            most = count;
        }
    }
    const long lines = std::count(head.begin(), head.end(), '\n');
    constexpr long fewColumns = 2;
    if (best == ',' && most < fewColumns * lines && alignedByBlanks(head)) return ' ';
    return best;
}

std::vector<CsvRow> csvRows(std::string_view text, char separator) {
    if (text.starts_with("\xef\xbb\xbf")) text.remove_prefix(3);
    Collector collector;
    collector.blanks = separator == ' ';
    csv_parser parser;
    csv_init(&parser, 0);
    csv_set_delim(&parser, static_cast<unsigned char>(separator));
    // Fed line by line, so that each row knows the line it ends on.
    while (!text.empty()) {
        const auto newline = text.find('\n');
        const auto size = newline == std::string_view::npos ? text.size() : newline + 1;
        csv_parse(&parser, text.data(), size, onCell, onRow, &collector);
        text.remove_prefix(size);
        ++collector.line;
    }
    --collector.line;
    csv_fini(&parser, onCell, onRow, &collector);
    csv_free(&parser);
    return std::move(collector.rows);
}

std::string csvCell(std::string_view text) {
    if (text.find_first_of(",;\"\n\r\t") == std::string_view::npos) return std::string(text);
    std::string out = "\"";
    for (const char c : text)
        out += c == '"' ? std::string("\"\"") : std::string(1, c);
    return out + "\"";
}

} // namespace ustor
