#pragma once

#include "base/measurement.h"
#include "base/message.h"
#include "rail/net_parts.h"

#include <string>

namespace ustor {

enum class RailState { Unknown, Healthy, Partial, Short, LowByNature };
std::string_view wordOf(RailState state);
Message labelOf(RailState state);

/// What kind of rail it is, as far as readings are concerned.
enum class RailKind { Main, Core };
/// Core: works at 1.3 V or less; where no voltage is known, a processor hangs on it. Judged for the whole
/// stretch.
RailKind railKindOf(const Board& board, NetIndex net);
RailKind railKindOf(const Board& board, const NetParts& parts, NetIndex net);

/// Who judged a reading, surest first.
enum class RulingBy { KnownGood, Sibling, Rule };
std::string_view wordOf(RulingBy by);
Message labelOf(RulingBy by);

struct RailRuling {
    RailState state = RailState::Unknown;
    Message rule; ///< which rule spoke, for people
    RulingBy by = RulingBy::Rule;
};

/// Judges one reading against ground by the rules of its mode and kind of rail. All thresholds: common
/// practice. Rules for main rails are never applied to core rails, which read low when nothing is wrong.
RailRuling judgeReading(const Reading& reading, RailKind kind);

} // namespace ustor
