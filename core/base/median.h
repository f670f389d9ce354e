#pragma once

#include <algorithm>
#include <vector>

namespace ustor {

/// The upper median of values in any order, which it changes; 0 of none.
template <typename T> T medianIn(std::vector<T>& values) {
    if (values.empty()) return T{};
    const auto middle = values.begin() + static_cast<long>(values.size() / 2);
    std::nth_element(values.begin(), middle, values.end());
    return *middle;
}

/// The same for values that may be thrown away.
template <typename T> T medianOf(std::vector<T> values) {
    return medianIn(values);
}

} // namespace ustor
