#pragma once

#include "base/result.h"
#include "diagnosis/fact/fact.h"

#include <optional>
#include <string>
#include <string_view>

namespace ustor {

/// One fact as one line of JSON without the line's end (docs/formats/fact.schema.json).
std::string factToJson(const Fact& fact);

/// The number of a line that is no fact, where it still tells one: it must not be given again.
std::optional<long> idInJson(std::string_view line);

/// Reads one line. An unknown kind, or a known one with an unknown word, is kept as UnknownFact; a line that
/// is not a fact is an error.
Result<Fact> factFromJson(std::string_view line);

} // namespace ustor
