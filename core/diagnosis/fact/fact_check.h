#pragma once

#include "base/message.h"
#include "diagnosis/fact/fact.h"

#include <optional>
#include <string>

namespace ustor {

/// Why a fact cannot be taken, in a sentence for people; nothing where it can. Everything that comes in is
/// asked here: places and parts are on the board, numbers are finite and in the range of a bench for low
/// voltages, the time is one. What a later version of the program knows is not asked.
std::optional<Message> whyNotTaken(const Board& board, const FactBody& body);

} // namespace ustor
