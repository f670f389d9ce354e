#pragma once

#include "base/result.h"

#include <string_view>

namespace ustor::testing {

/// Whether it was read; whoever could not says in which file.
template <class T> bool wasRead(const Result<T>& read, std::string_view file) {
    USTOR_CHECK(read.ok() || read.error().where.find(file) != std::string::npos, "an error names its file");
    USTOR_CHECK(read.ok() || !read.error().what.empty(), "an error says what is wrong");
    return read.ok();
}

} // namespace ustor::testing
