#include "injection/stop_cause.h"

#include <array>

namespace ustor {
namespace {

struct Words {
    StopCause cause;
    std::string_view word;
    const char *label, *sentence;
};

// What ended it and what to do. Whether the output is off is read, and told beside it.
constexpr std::array<Words, 18> words{{
    {StopCause::None, "none", toSay("none"), toSay("Nothing has stopped it.")},
    {StopCause::Finished, "finished", toSay("finished"), toSay("All steps are done.")},
    {StopCause::Certain, "certain", toSay("certain"), toSay("The spot is located.")},
    {StopCause::Person, "person", toSay("person"), toSay("Stopped by hand.")},
    {StopCause::LinkLost, "link lost", toSay("link lost"),
     toSay("The link to the supply broke. Check the cable, then start again.")},
    {StopCause::Silence, "silence", toSay("silence"),
     toSay("The supply said nothing for a second. Check supply and cable.")},
    {StopCause::SettingRefused, "setting refused", toSay("setting refused"),
     toSay("The supply did not take a setting, or would not tell it. Try the instrument from the command "
           "line, and check its profile.")},
    {StopCause::LimitsChanged, "limits changed", toSay("limits changed"),
     toSay("Other limits than were set stand in the supply: a hand at its panel, or a reset. Leave the panel "
           "alone, then start again.")},
    {StopCause::GuardEnded, "guard ended", toSay("guard ended"),
     toSay("The guard of the supply ended or hung. Start again.")},
    {StopCause::ProgramStalled, "program stalled", toSay("program stalled"),
     toSay("This program was too busy to say that it lives, so the guard switched off. Start again; close "
           "what else runs if it comes back.")},
    {StopCause::CameraLost, "camera lost", toSay("camera lost"),
     toSay("The camera sent no picture. Check the camera, then start again.")},
    {StopCause::PicturesUnseen, "pictures unseen", toSay("pictures unseen"),
     toSay("Pictures came, but this machine was too busy to look at any for ten seconds. Close what else "
           "runs, then start again.")},
    {StopCause::TooWarm, "too warm", toSay("too warm"),
     toSay("A spot became too warm. Let it cool and use a lower step.")},
    {StopCause::TooHot, "too hot", toSay("too hot"),
     toSay("A surface became too hot to go on. Let it cool and use a lower step.")},
    {StopCause::CurrentJumped, "current jumped", toSay("current jumped"),
     toSay("The current fell at once: something opened, or a clip came off. Look before going on.")},
    {StopCause::OutputRefused, "output refused", toSay("output refused"),
     toSay("The supply's output did not stay on: its protection tripped, or somebody switched it off. Look "
           "at the supply before going on.")},
    {StopCause::OverLimit, "over limit", toSay("over limit"),
     toSay("More than the limit was read back. Check the supply's settings.")},
    {StopCause::ProgramEnded, "program ended", toSay("program ended"),
     toSay("The program ended before the run did, or before it was noted. See that the output is off.")},
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

Message sentenceOf(StopCause cause) {
    return say(wordsFor(cause).sentence);
}

Message labelOf(StopCause cause) {
    return say(wordsFor(cause).label);
}

std::optional<StopCause> stopCauseFrom(std::string_view word) {
    for (const Words& each : words)
        if (each.word == word) return each.cause;
    return std::nullopt;
}

} // namespace ustor
