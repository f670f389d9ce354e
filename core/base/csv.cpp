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
    const auto filled = [](const std::string& cell) { return !cell.empty(); };
    if (std::any_of(collector->row.cells.begin(), collector->row.cells.end(), filled))
        collector->rows.push_back(std::move(collector->row));
    collector->row = {};
}

} // namespace

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
    return best;
}

std::vector<CsvRow> csvRows(std::string_view text, char separator) {
    if (text.starts_with("\xef\xbb\xbf")) text.remove_prefix(3);
    Collector collector;
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
