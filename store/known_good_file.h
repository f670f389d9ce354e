#pragma once

#include "base/message.h"
#include "diagnosis/known_good.h"

#include <filesystem>

namespace ustor {

/// Where a casebook keeps what good boards of a model read: `known-good/<model>.csv`.
std::filesystem::path knownGoodFile(const std::filesystem::path& book, const std::string& model);

/// The set of a model without what one donor gave (a case is not judged against itself); empty where there is
/// none. What cannot be read is told in `warnings`.
KnownGoodSet loadKnownGood(const std::filesystem::path& book, const std::string& model,
                           const std::string& exceptDonor, std::vector<Message>& warnings);

/// Puts readings beside those of other donors; what the same donor gave before is replaced, or taken back
/// where nothing is given now. The old file stays whole until the new one is, and untouched where nothing
/// changes.
Outcome keepKnownGood(const std::filesystem::path& book, const KnownGoodSet& fresh, const std::string& donor);

/// Takes in a CSV of another shop: how many readings. Each donor's readings replace what stood under its
/// name; rows without a donor go by the file's name. Rows that cannot be read are told in `warnings`.
Result<std::size_t> importKnownGood(const std::filesystem::path& book, const std::string& model,
                                    const std::filesystem::path& file, std::vector<Message>& warnings);
/// Writes all that is known of a model as CSV: how many readings; an error where there is none.
Result<std::size_t> exportKnownGood(const std::filesystem::path& book, const std::string& model,
                                    const std::filesystem::path& file);

} // namespace ustor
