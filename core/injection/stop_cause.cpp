#include "injection/stop_cause.h"

#include <array>

namespace ustor {
namespace {

struct Words {
    StopCause cause;
    std::string_view word, sentence;
};

// What ended it and what to do. Whether the output is off is read, and told beside it.
constexpr std::array<Words, 18> words{{
    {StopCause::None, "none", "Nothing has stopped it."},
    {StopCause::Finished, "finished", "All steps are done."},
    {StopCause::Certain, "certain", "The spot is located."},
    {StopCause::Person, "person", "Stopped by hand."},
    {StopCause::LinkLost, "link lost", "The link to the supply broke. Check the cable, then start again."},
    {StopCause::Silence, "silence", "The supply said nothing for a second. Check supply and cable."},
    {StopCause::SettingRefused, "setting refused",
     "The supply did not take a setting, or would not tell it. Try the instrument from the command line, and "
     "check its profile."},
    {StopCause::LimitsChanged, "limits changed",
     "Other limits than were set stand in the supply: a hand at its panel, or a reset. Leave the panel "
     "alone, "
     "then start again."},
    {StopCause::GuardEnded, "guard ended", "The guard of the supply ended or hung. Start again."},
    {StopCause::ProgramStalled, "program stalled",
     "This program was too busy to say that it lives, so the guard switched off. Start again; close what "
     "else "
     "runs if it comes back."},
    {StopCause::CameraLost, "camera lost", "The camera sent no picture. Check the camera, then start again."},
    {StopCause::PicturesUnseen, "pictures unseen",
     "Pictures came, but this machine was too busy to look at any for ten seconds. Close what else runs, "
     "then "
     "start again."},
    {StopCause::TooWarm, "too warm", "A spot became too warm. Let it cool and use a lower step."},
    {StopCause::TooHot, "too hot", "A surface became too hot to go on. Let it cool and use a lower step."},
    {StopCause::CurrentJumped, "current jumped",
     "The current fell at once: something opened, or a clip came off. Look before going on."},
    {StopCause::OutputRefused, "output refused",
     "The supply's output did not stay on: its protection tripped, or somebody switched it off. Look at the "
     "supply before going on."},
    {StopCause::OverLimit, "over limit", "More than the limit was read back. Check the supply's settings."},
    {StopCause::ProgramEnded, "program ended",
     "The program ended before the run did, or before it was noted. See that the output is off."},
}};

const Words& wordsFor(StopCause cause) {
    for (const Words& each : words)
        if (each.cause == cause) return each;
    return words.front();
}

} // namespace

std::string_view wordOf(StopCause cause) {
    return wordsFor(cause).word;
}

std::string_view sentenceOf(StopCause cause) {
    return wordsFor(cause).sentence;
}

std::optional<StopCause> stopCauseFrom(std::string_view word) {
    for (const Words& each : words)
        if (each.word == word) return each.cause;
    return std::nullopt;
}

} // namespace ustor
