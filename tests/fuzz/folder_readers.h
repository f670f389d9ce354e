#pragma once

#include "fuzz/readers.h"

namespace ustor::testing {

/// Readers of what lies in files and folders: recordings, stills, cases, archives; and of what the bench is
/// told.
const std::vector<FuzzedReader>& folderReaders();

} // namespace ustor::testing
