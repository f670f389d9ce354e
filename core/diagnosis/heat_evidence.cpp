#include "diagnosis/heat_evidence.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ustor {
namespace {

struct Local {
    double u_mm, v_mm; ///< along the part's own axes from its centre
};

Local inPart(BoardPoint p, const Part& part) {
    const double turn = -part.rotation_deg * std::numbers::pi / 180;
    const double dx = p.x_mm - part.centre.x_mm, dy = p.y_mm - part.centre.y_mm;
    return {dx * std::cos(turn) - dy * std::sin(turn), dx * std::sin(turn) + dy * std::cos(turn)};
}

double normalShare(double low, double high, double sigma) {
    const double root = sigma * std::numbers::sqrt2;
    return 0.5 * (std::erf(high / root) - std::erf(low / root));
}

/// Heat enters the board at the pads and leaves a chip's die, not at its rim: bodies are drawn in a little,
/// and never smaller than the smallest part.
double bodyHalf(double size_mm) {
    return std::max(0.25, 0.4 * size_mm);
}

/// Gaussian doubt of the spot averaged over the body, per mm^2.
double onBody(const HeatSpot& spot, const Part& part, double sigma_mm) {
    const Local at = inPart(spot.at, part);
    const double a = bodyHalf(part.width_mm), b = bodyHalf(part.height_mm);
    const double u = normalShare(at.u_mm - a, at.u_mm + a, sigma_mm) / (2 * a);
    const double v = normalShare(at.v_mm - b, at.v_mm + b, sigma_mm) / (2 * b);
    return u * v;
}

/// Copper pulls a spot to one side of what heats it; no model of this board is exact.
constexpr double modelDoubt_mm = 0.3;
/// Heat that crossed the board has spread by about its thickness.
constexpr double farSideDoubt_mm = 2.0;

double doubtOf(const HeatSpot& spot, bool farSide) {
    return std::hypot(spot.sigma_mm, farSide ? farSideDoubt_mm : modelDoubt_mm);
}

/// Share of findings that are not the fault (glare, copper that carries the current). A spot at the threshold
/// of seeing is worth an even bet, a clear one is wrong three times in a hundred; what two stills tell apart
/// may as well be a hand or hot-air heat, however clear it is (judgement, no source).
double strayShare(double snr, bool fromStills) {
    constexpr double clear = 0.03, faint = 0.47, threshold = 6.5, fades = 4;
    if (fromStills) return clear + faint;
    return clear + faint * std::exp(-std::max(0.0, snr - threshold) / fades);
}

/// Where what is not the fault may lie: anywhere on the board; but hands and hot air are where people work,
/// on the suspects themselves (judgement, no source).
double strayRoom_mm2(bool fromStills, double boardArea_mm2) {
    constexpr double worked_mm2 = 20;
    return fromStills ? worked_mm2 : boardArea_mm2;
}

} // namespace

bool spotOnPart(const HeatSpot& spot, const Part& part) {
    const Local at = inPart(spot.at, part);
    const double margin = 1.5 * doubtOf(spot, false);
    return std::fabs(at.u_mm) <= part.width_mm / 2 + margin &&
           std::fabs(at.v_mm) <= part.height_mm / 2 + margin;
}

double heatDensity_per_mm2(const HeatFound& heat, const Part& part, const std::vector<const Part*>& links,
                           double boardArea_mm2) {
    if (heat.spots.empty()) return 1 / boardArea_mm2;
    // What faces the camera is seen at once and sharp; the other side only as heat that came through.
    const bool facing = part.side == heat.side;
    double sum = 0, weights = 0;
    double strongest = 0;
    for (const HeatSpot& spot : heat.spots)
        strongest = std::max(strongest, spot.snr);
    for (const HeatSpot& spot : heat.spots) {
        const bool onLink = std::any_of(links.begin(), links.end(), [&](const Part* link) {
            return link->side == heat.side && spotOnPart(spot, *link);
        });
        constexpr double linkWeight = 0.1;
        const double weight = (strongest > 0 ? spot.snr / strongest : 1) * (onLink ? linkWeight : 1);
        weights += weight;
        const bool farVerdict = heat.verdict == HeatVerdict::FarSide;
        constexpr double wrongSide = 0.1;
        const double side = facing == farVerdict ? wrongSide : 1;
        const double stray = strayShare(spot.snr, heat.fromStills);
        const double here =
            onBody(spot, part, doubtOf(spot, !facing)) * strayRoom_mm2(heat.fromStills, boardArea_mm2);
        sum += weight * ((1 - stray) * side * here + stray) / boardArea_mm2;
    }
    return weights > 0 ? sum / weights : 1 / boardArea_mm2;
}

} // namespace ustor
