#pragma once

#include "base/result.h"

#include <filesystem>
#include <string>

namespace ustor {

/// Writes a file at once: the old one stays whole until the new one is on the disk.
Outcome writeWhole(const std::filesystem::path& file, const std::string& text);

} // namespace ustor
