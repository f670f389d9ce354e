#include "diagnosis/hypothesis/fault.h"

#include <cmath>

namespace ustor {
namespace {

/// From 0.03 ohms to 100, two a decade. `slope` is how fast shares fall with each level.
std::vector<ShortLevel> falling(double slope) {
    constexpr double first_ohms = 0.03;
    constexpr int levels = 8;
    std::vector<ShortLevel> all;
    double sum = 0;
    for (int i = 0; i < levels; ++i) {
        all.push_back({first_ohms * std::pow(10.0, i / 2.0), std::pow(slope, i)});
        sum += all.back().share;
    }
    for (ShortLevel& level : all)
        level.share /= sum;
    return all;
}

} // namespace

std::string_view wordOf(FaultKind kind) {
    switch (kind) {
    case FaultKind::Short:
        return "short";
    case FaultKind::Breakdown:
        return "breakdown";
    case FaultKind::Open:
        return "open";
    case FaultKind::Unlisted:
        return "unlisted";
    case FaultKind::Dead:
        return "dead";
    case FaultKind::Nothing:
        return "nothing electrical";
    case FaultKind::Other:
        return "something else";
    }
    return "something else";
}

const std::vector<ShortLevel>& shortLevels(PartClass partClass) {
    static const std::vector<ShortLevel> hard = falling(0.6), capacitor = falling(0.75), chip = falling(0.95);
    switch (partClass) {
    case PartClass::Ic:
    case PartClass::Regulator:
    case PartClass::Processor:
        return chip;
    case PartClass::Mosfet:
    case PartClass::ClampDiode:
    case PartClass::Diode:
        return hard;
    default:
        return capacitor;
    }
}

} // namespace ustor
