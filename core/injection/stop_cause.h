#pragma once

#include "base/message.h"
#include <optional>
#include <string_view>

namespace ustor {

/// Why an injection ended.
enum class StopCause {
    None,
    Finished,       ///< all steps done
    Certain,        ///< the heat is located well enough
    Person,         ///< somebody pressed stop
    LinkLost,       ///< the way to the supply broke
    Silence,        ///< no telemetry for a second
    SettingRefused, ///< the supply did not take a setting, or the guard did not pass it on
    LimitsChanged,  ///< other limits than were set were read back: a hand at its panel, a reset
    GuardEnded,     ///< the guard ended, hung, or has nobody to take over for it
    ProgramStalled, ///< this program was too busy to say that it lives
    CameraLost,     ///< no picture for two seconds
    PicturesUnseen, ///< pictures came, and this machine was too busy to look at any
    TooWarm,        ///< a spot above the limit of its rise
    TooHot,         ///< a surface above the limit of its temperature
    CurrentJumped,  ///< something opened or let go
    OutputRefused,  ///< the output did not come on, or went off by itself
    OverLimit,      ///< more volts or amps than allowed were read back
    ProgramEnded    ///< nobody was left to note how it ended
};
std::string_view wordOf(StopCause cause);
Message labelOf(StopCause cause);
std::optional<StopCause> stopCauseFrom(std::string_view word);
/// What happened and what to do, for people. It says nothing of the output: that is read, not concluded.
Message sentenceOf(StopCause cause);

} // namespace ustor
