#pragma once

#include <functional>
#include <string>
#include <string_view>
#include <vector>

namespace ustor::testing {

/// A reader under test: it gets any bytes, and must come back with a value or an error.
struct FuzzedReader {
    std::string name; ///< also the folder of its corpus
    std::function<void(std::string_view)> feed;
};

const std::vector<FuzzedReader>& fuzzedReaders();

} // namespace ustor::testing
