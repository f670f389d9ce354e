#pragma once

#include <cstdint>
#include <limits>
#include <optional>

namespace ustor {

/// The whole number that a JSON value holds; nothing for fractions and for what no integer holds: JSON knows
/// only numbers, and a conversion that does not fit is undefined.
template <class Json> std::optional<long> wholeNumber(const Json& j) {
    if (!j.is_number_integer()) return std::nullopt;
    if (j.is_number_unsigned() &&
        j.template get<std::uint64_t>() > static_cast<std::uint64_t>(std::numeric_limits<long>::max()))
        return std::nullopt;
    return j.template get<long>();
}

} // namespace ustor
