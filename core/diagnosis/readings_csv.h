#pragma once

#include "base/result.h"
#include "diagnosis/fact.h"

namespace ustor {

struct ReadingList {
    std::vector<ReadingTaken> readings;
    std::vector<std::string> warnings;
};

/// Readings as CSV `place,mode,value,unit`; an empty value is over range. Rows that cannot be read are left
/// out with a warning.
Result<ReadingList> readReadings(std::string_view text, std::string_view fileName);
std::string readingsToCsv(const std::vector<Fact>& facts);

} // namespace ustor
