#include "session/certainty.h"

#include <algorithm>

namespace ustor {
namespace {

constexpr double clearSnr = 12, fewestSeconds = 8, finePixels = 0.25;

const HeatSource* pointOf(const LiveHeat& heat) {
    const bool point = heat.located.verdict == HeatVerdict::Point && !heat.located.sources.empty();
    return point ? &heat.located.sources.front().spot : nullptr;
}

} // namespace

bool isCertain(const LiveHeat& heat) {
    const HeatSource* spot = pointOf(heat);
    return spot && spot->snr > clearSnr && spot->sigma_px < finePixels && heat.seconds > fewestSeconds;
}

std::optional<double> secondsToCertain(const LiveHeat& heat) {
    const HeatSource* spot = pointOf(heat);
    if (!spot || spot->snr <= 0) return std::nullopt;
    if (isCertain(heat)) return 0;
    const double more = std::max(clearSnr / spot->snr, spot->sigma_px / finePixels);
    return std::max(heat.seconds * (more * more - 1), fewestSeconds - heat.seconds);
}

} // namespace ustor
