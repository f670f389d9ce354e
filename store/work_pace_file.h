#pragma once

#include "diagnosis/work_pace.h"

#include <filesystem>

namespace ustor {

/// Where a casebook keeps how long work took: `pace.csv`.
std::filesystem::path paceFile(const std::filesystem::path& book);

/// The pace of all cases but one, that is not judged by itself; empty where there are none. What cannot be
/// read is told in `warnings`.
WorkPace loadPace(const std::filesystem::path& book, const std::string& exceptCase,
                  std::vector<Message>& warnings);

/// Puts the pace of a case behind those of others; what the same case gave before is replaced, or taken back
/// where nothing is given now. The newest `casesKept` stay: a shop changes. The old file stays whole until
/// the new one is, and untouched where it holds rows that cannot be read.
Outcome keepPace(const std::filesystem::path& book, const CasePace& fresh);
constexpr std::size_t casesKept = 300;

} // namespace ustor
