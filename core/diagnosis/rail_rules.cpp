#include "diagnosis/rail_rules.h"

#include "rail/stretch.h"

#include <algorithm>

namespace ustor {

std::string_view wordOf(RailState state) {
    switch (state) {
    case RailState::Unknown:
        return "unknown";
    case RailState::Healthy:
        return "healthy";
    case RailState::Partial:
        return "partial short";
    case RailState::Short:
        return "short";
    case RailState::LowByNature:
        return "low by nature";
    }
    return "unknown";
}

Message labelOf(RailState state) {
    switch (state) {
    case RailState::Unknown:
        return say("unknown");
    case RailState::Healthy:
        return say("healthy");
    case RailState::Partial:
        return say("partial short");
    case RailState::Short:
        return say("short");
    case RailState::LowByNature:
        return say("low by nature");
    }
    return {};
}

std::string_view wordOf(RulingBy by) {
    switch (by) {
    case RulingBy::KnownGood:
        return "a good board";
    case RulingBy::Sibling:
        return "a sibling";
    case RulingBy::Rule:
        return "a rule of thumb";
    }
    return "a rule of thumb";
}

Message labelOf(RulingBy by) {
    switch (by) {
    case RulingBy::KnownGood:
        return say("a good board");
    case RulingBy::Sibling:
        return say("a sibling");
    case RulingBy::Rule:
        return say("a rule of thumb");
    }
    return {};
}

RailKind railKindOf(const Board& board, NetIndex net) {
    return railKindOf(board, NetParts(board), net);
}

RailKind railKindOf(const Board& board, const NetParts& parts, NetIndex net) {
    // What hangs together reads alike: a switch node reads as the core rail behind its inductor.
    const Stretch stretch = stretchOf(board, parts, net);
    constexpr double coreVolts = 1.3;
    if (stretch.nominal) return stretch.nominal->value <= coreVolts ? RailKind::Core : RailKind::Main;
    const auto has = [&](const std::vector<PartIndex>& some, PartClass partClass) {
        return std::any_of(some.begin(), some.end(),
                           [&](PartIndex p) { return board.parts[p].partClass == partClass; });
    };
    // The current of a core comes through an inductor (common practice).
    const bool feedsCore =
        has(stretch.suspects, PartClass::Processor) && has(stretch.links, PartClass::Inductor);
    return feedsCore ? RailKind::Core : RailKind::Main;
}

namespace {

RailRuling judgeOhms(double ohms, RailKind kind) {
    if (kind == RailKind::Core) {
        if (ohms < 0.1) return {RailState::Short, say("below 0.1 Ω even a core rail is under suspicion")};
        if (ohms < 30)
            return {RailState::LowByNature, say("core rails read a few ohms when nothing is wrong: compare "
                                                "with a sibling or a good board")};
        return {RailState::Healthy, say("a core rail above 30 Ω is not shorted")};
    }
    if (ohms < 5) return {RailState::Short, say("a main rail below 5 Ω is shorted")};
    if (ohms < 120) return {RailState::Partial, say("a main rail at tens of ohms leaks: a partial short")};
    return {RailState::Healthy, say("hundreds of ohms and up is healthy")};
}

RailRuling judgeDiode(double volts, RailKind kind) {
    if (kind == RailKind::Core) {
        if (volts < 0.001) return {RailState::Short, say("0.000 V is too low even for a core rail")};
        if (volts < 0.05)
            return {RailState::LowByNature,
                    say("core rails read 0.003 to 0.03 V when nothing is wrong: compare "
                        "with a sibling or a good board")};
        return {RailState::Healthy, say("a core rail above 0.05 V is not shorted")};
    }
    if (volts <= 0.010) return {RailState::Short, say("0.000 to 0.010 V in diode test is a hard short")};
    if (volts <= 0.05) return {RailState::Short, say("a few hundredths of a volt is all but a hard short")};
    if (volts < 0.25) return {RailState::Partial, say("below 0.3 V in diode test the rail leaks")};
    return {RailState::Healthy, say("0.3 V and up in diode test is healthy")};
}

} // namespace

RailRuling judgeReading(const Reading& reading, RailKind kind) {
    if (reading.mode == MeterMode::Volts)
        return {RailState::Unknown,
                say("read with the power on: whether the rail comes up counts with the way of the power")};
    if (reading.state == ReadingState::OverRange)
        return {RailState::Healthy, say("over range: nothing conducts here")};
    if (reading.mode == MeterMode::Diode) return judgeDiode(reading.value, kind);
    if (reading.mode == MeterMode::Beep && kind == RailKind::Main && reading.value >= 5 &&
        reading.value < 120)
        return {RailState::Partial, say("it beeps, but is no hard short: read it in ohms")};
    return judgeOhms(reading.value, kind);
}

} // namespace ustor
