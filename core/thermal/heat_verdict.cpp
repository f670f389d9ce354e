#include "thermal/heat_verdict.h"

namespace ustor {

std::string_view wordOf(HeatVerdict verdict) {
    switch (verdict) {
    case HeatVerdict::Point:
        return "point";
    case HeatVerdict::FarSide:
        return "far side";
    case HeatVerdict::Spread:
        return "spread";
    case HeatVerdict::None:
        return "none";
    }
    return "none";
}

Message labelOf(HeatVerdict verdict) {
    switch (verdict) {
    case HeatVerdict::Point:
        return say("point");
    case HeatVerdict::FarSide:
        return say("far side");
    case HeatVerdict::Spread:
        return say("spread");
    case HeatVerdict::None:
        return say("none");
    }
    return {};
}

std::optional<HeatVerdict> heatVerdictFromWord(std::string_view word) {
    for (const auto v : {HeatVerdict::Point, HeatVerdict::FarSide, HeatVerdict::Spread, HeatVerdict::None})
        if (wordOf(v) == word) return v;
    return std::nullopt;
}

} // namespace ustor
