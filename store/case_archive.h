#pragma once

#include "base/result.h"

#include <filesystem>
#include <functional>

namespace ustor {

/// How much of it is done, from 0 to 1; called often, in the thread that works.
using Progress = std::function<void(double)>;

/// Packs every file of a case folder into one `*.ustor-case` (a zip). An older file of that name is replaced
/// only once the new one is whole. Facts that come meanwhile may be in it or not. Error when the folder is no
/// case or the file cannot be written.
Outcome exportCase(const std::filesystem::path& folder, const std::filesystem::path& file,
                   const Progress& progress = {});

/// Unpacks a case into a folder of its own under `parent`, named after its title, and returns that folder. A
/// file that is no zip, is damaged, holds no case, or names files outside its own folder is refused, and then
/// nothing is left behind.
Result<std::filesystem::path> importCase(const std::filesystem::path& file,
                                         const std::filesystem::path& parent, const Progress& progress = {});

} // namespace ustor
