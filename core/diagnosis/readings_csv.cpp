#include "diagnosis/readings_csv.h"

#include "base/csv.h"
#include "base/number_text.h"
#include "base/quantity_text.h"

#include <algorithm>

namespace ustor {

Result<ReadingList> readReadings(std::string_view text, std::string_view fileName) {
    const std::string file(fileName);
    const auto rows = csvRows(text, csvSeparator(text));
    const std::vector<std::string> header{"place", "mode", "value", "unit"};
    if (rows.empty() || rows.front().cells.size() < 3 ||
        !std::equal(header.begin(), header.begin() + 3, rows.front().cells.begin()))
        return Error{"the first row must be place,mode,value,unit", file + ":1", "nothing was read"};
    ReadingList list;
    for (std::size_t i = 1; i < rows.size(); ++i) {
        const auto& cells = rows[i].cells;
        const std::string where = file + ":" + std::to_string(rows[i].line);
        const auto mode = cells.size() > 1 ? meterModeFromWord(cells[1]) : std::nullopt;
        const std::string value = cells.size() > 2 ? cells[2] : std::string();
        const auto number = quantityFromText(value);
        if (!mode || cells[0].empty() || (!value.empty() && !number)) {
            list.warnings.push_back(where + ": not a reading, left out");
            continue;
        }
        // The unit may carry a prefix: 12, mV.
        double factor = 1;
        if (cells.size() > 3 && cells[3].size() > 1)
            if (const auto scaled = quantityFromText("1 " + cells[3])) factor = *scaled;
        Reading reading{*mode, value.empty() ? ReadingState::OverRange : ReadingState::Value,
                        number.value_or(0) * factor, 0};
        list.readings.push_back({cells[0], "", reading});
    }
    return list;
}

std::string readingsToCsv(const std::vector<Fact>& facts) {
    std::string out = "place,mode,value,unit\n";
    for (const Fact* fact : activeFacts(facts))
        if (const auto* taken = std::get_if<ReadingTaken>(&fact->body)) {
            const Reading& r = taken->reading;
            const std::string value = r.state == ReadingState::OverRange ? "" : textOfNumber(r.value);
            out += csvCell(taken->place) + "," + std::string(wordOf(r.mode)) + "," + value + "," +
                   (unitOf(r.mode) == "V" ? "V" : "ohm") + "\n";
        }
    return out;
}

} // namespace ustor
