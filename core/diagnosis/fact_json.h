#pragma once

#include "base/result.h"
#include "diagnosis/fact.h"

#include <string>
#include <string_view>

namespace ustor {

/// One fact as one line of JSON without the line's end (docs/formats/fact.schema.json).
std::string factToJson(const Fact& fact);

/// Reads one line. An unknown kind is kept as UnknownFact; a line that is not a fact is an error.
Result<Fact> factFromJson(std::string_view line);

} // namespace ustor
