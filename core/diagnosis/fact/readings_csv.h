#pragma once

#include "base/result.h"
#include "diagnosis/fact/fact.h"

namespace ustor {

struct ReadingList {
    std::vector<ReadingTaken> readings;
    std::vector<std::string> boards; ///< for each reading which board it is from, where a column says so
    std::vector<Message> warnings;
};

/// Readings as CSV `place,mode,value,unit`, and where they are needed `polarity` (empty or `reversed`),
/// `against` and `board`, told by the header; an empty value is over range. Rows that cannot be read are left
/// out with a warning.
Result<ReadingList> readReadings(std::string_view text, std::string_view fileName);
std::string readingsToCsv(const std::vector<Fact>& facts);
/// The first four cells of a row.
std::string readingCells(const std::string& place, const Reading& reading);

} // namespace ustor
