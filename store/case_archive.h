#pragma once

#include "base/result.h"

#include <filesystem>

namespace ustor {

/// Packs every file of a case folder into one `*.ustor-case` (a zip). An older file of that name is replaced
/// only once the new one is whole. Error when the folder is no case or the file cannot be written.
Outcome exportCase(const std::filesystem::path& folder, const std::filesystem::path& file);

/// Unpacks a case into a folder of its own under `parent`, named after its title, and returns that folder. A
/// file that is no zip, is damaged, holds no case, or names files outside its own folder is refused, and then
/// nothing is left behind.
Result<std::filesystem::path> importCase(const std::filesystem::path& file,
                                         const std::filesystem::path& parent);

} // namespace ustor
