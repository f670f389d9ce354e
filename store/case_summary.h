#pragma once

#include "base/result.h"
#include "diagnosis/fact/fact.h"

#include <filesystem>
#include <functional>
#include <map>
#include <string>
#include <vector>

namespace ustor {

/// One line of the casebook.
struct CaseEntry {
    std::filesystem::path folder;
    std::string title, board, complaint, status, culprit; ///< status: open, fixed, closed
    double changed_s = 0;                                 ///< time of the newest fact
};

/// What is to be found again of a case.
struct CaseSummary {
    CaseEntry entry;
    std::string words; ///< the sentences of the facts that count
    long size = 0;     ///< of `facts.jsonl` as it was read, in bytes: another one tells that facts came
};

/// What its facts tell of a case.
CaseSummary summaryOf(const std::filesystem::path& folder, const std::string& title, const std::string& board,
                      const std::vector<Fact>& facts, long size);

/// From its files, without the board's parts and whoever has it open. Error where it is no case or damaged:
/// opening it says more.
Result<CaseSummary> readCaseSummary(const std::filesystem::path& folder);

/// Case folders in a folder, against those that are known and how large their `facts.jsonl` was then. New and
/// changed ones are read and told one by one, until `goesOn` says no; those that are gone are returned.
/// Folders whose name begins with a dot are passed over. It touches no index, and may run in any thread.
std::vector<std::filesystem::path> scanCases(const std::filesystem::path& parent,
                                             const std::map<std::filesystem::path, long>& known,
                                             const std::function<void(CaseSummary)>& found,
                                             const std::function<bool()>& goesOn);

} // namespace ustor
