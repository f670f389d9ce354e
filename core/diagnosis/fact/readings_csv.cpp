#include "diagnosis/fact/readings_csv.h"

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
        return Error{say("the first row must be place,mode,value,unit"), file + ":1",
                     say("nothing was read")};
    const auto& names = rows.front().cells;
    const auto column = [&](const char* name) {
        return static_cast<std::size_t>(std::find(names.begin(), names.end(), name) - names.begin());
    };
    const std::size_t polarity = column("polarity"), against = column("against"), board = column("board");
    ReadingList list;
    for (std::size_t i = 1; i < rows.size(); ++i) {
        const auto& cells = rows[i].cells;
        const auto cell = [&](std::size_t at) { return at < cells.size() ? cells[at] : std::string(); };
        const std::string where = file + ":" + std::to_string(rows[i].line);
        const auto mode = cells.size() > 1 ? meterModeFromWord(cells[1]) : std::nullopt;
        const std::string value = cell(2);
        const auto number = quantityFromText(value);
        if (!mode || cells[0].empty() || (!value.empty() && !number)) {
            list.warnings.push_back(say("{where}: not a reading, left out", {{"where", where}}));
            continue;
        }
        const std::string way = cell(polarity);
        if (!way.empty() && way != "reversed" && way != "normal") {
            list.warnings.push_back(say("{where}: polarity is 'reversed' or empty, not '{way}': left out",
                                        {{"where", where}, {"way", way}}));
            continue;
        }
        // The unit may carry a prefix: 12, mV.
        double factor = 1;
        if (cell(3).size() > 1)
            if (const auto scaled = quantityFromText("1 " + cell(3))) factor = *scaled;
        Reading reading{*mode, value.empty() ? ReadingState::OverRange : ReadingState::Value,
                        number.value_or(0) * factor, 0};
        list.readings.push_back({cells[0], cell(against), reading, way == "reversed"});
        list.boards.push_back(cell(board));
    }
    return list;
}

std::string readingCells(const std::string& place, const Reading& r) {
    const std::string value = r.state == ReadingState::OverRange ? "" : textOfNumber(r.value);
    return csvCell(place) + "," + std::string(wordOf(r.mode)) + "," + value + "," +
           (unitOf(r.mode) == "V" ? "V" : "ohm");
}

std::string readingsToCsv(const std::vector<Fact>& facts) {
    std::vector<const ReadingTaken*> all;
    for (const Fact* fact : activeFacts(facts))
        if (const auto* taken = std::get_if<ReadingTaken>(&fact->body)) all.push_back(taken);
    const bool more = std::any_of(all.begin(), all.end(), [](const ReadingTaken* taken) {
        return taken->reversed || !taken->against.empty();
    });
    std::string out = more ? "place,mode,value,unit,polarity,against\n" : "place,mode,value,unit\n";
    for (const ReadingTaken* taken : all) {
        out += readingCells(taken->place, taken->reading);
        if (more) out += (taken->reversed ? ",reversed," : ",,") + csvCell(taken->against);
        out += "\n";
    }
    return out;
}

} // namespace ustor
