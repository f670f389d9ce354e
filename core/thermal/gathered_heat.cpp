#include "thermal/gathered_heat.h"

#include "base/median.h"
#include "thermal/power_evidence.h"
#include "thermal/spot_fit.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <opencv2/imgproc.hpp>

namespace ustor {
namespace {

constexpr int slowLag = 3; // of the bank: five seconds
/// Wide enough that a can in the middle leaves a ring to see.
constexpr std::array<SpotScale, 3> scales{SpotScale{3, 12, 14, 40}, SpotScale{6, 24, 20, 50},
                                          SpotScale{10, 40, 28, 60}};

/// The deviation of what is far from a spot, in the unit of the map.
double elsewhere(const cv::Mat& map, const cv::Mat& seen, const HeatSource& spot) {
    constexpr double widths = 3;
    constexpr std::size_t fewest = 500;
    std::vector<float> values;
    for (int y = 0; y < map.rows; ++y)
        for (int x = 0; x < map.cols; ++x)
            if (seen.at<float>(y, x) > 0 &&
                std::hypot(x - spot.at.x_px, y - spot.at.y_px) > widths * spot.width_px)
                values.push_back(std::fabs(map.at<float>(y, x)));
    return values.size() < fewest ? 0 : medianOf(std::move(values)) * 1.4826;
}

} // namespace

std::optional<GatheredHeat> gatheredHeat(const StepResponse& response) {
    // What crossed the board is no narrower than this, at any camera's pixels.
    constexpr double leastSnr = 8, shortest_s = 10, narrowest_px = 3.5;
    constexpr int peaks = 4;
    if (response.seconds() < shortest_s) return std::nullopt;
    const auto maps = response.matched(slowLag, StepResponse::Baseline::Shared);
    const double sigma = std::max(maps.sigma_k_per_w, 1e-12);
    constexpr int border_px = 4;
    const cv::Rect2d inner(border_px, border_px, response.width() - 2 * border_px,
                           response.height() - 2 * border_px);
    std::optional<GatheredHeat> best;
    for (const SpotScale& scale : scales) {
        const ChanceFloor floor =
            floorFrom({}, cv::Size(response.width(), response.height()), scale, response.quiet());
        cv::Mat snr;
        cv::divide(floor.band.value(maps.rise_k_per_w), floor.deviation * sigma, snr);
        cv::Mat left = snr.clone();
        for (int tries = 0; tries < peaks; ++tries) {
            double top = 0;
            cv::Point peak;
            cv::minMaxLoc(left, nullptr, &top, nullptr, &peak);
            if (top < leastSnr) break;
            cv::circle(left, peak, static_cast<int>(3 * scale.spot), cv::Scalar(0), cv::FILLED);
            auto spot = fitSpot(maps.rise_k_per_w, floor.band.weight(), peak, sigma, scale);
            if (!spot || spot->width_px < narrowest_px || !hasEnd(*spot, scale) ||
                !inner.contains(cv::Point2d(spot->at.x_px, spot->at.y_px)))
                continue;
            spot->snr = top / std::max(1.0, elsewhere(snr, response.quiet(), *spot));
            if (spot->snr < leastSnr || (best && spot->snr <= best->spot.snr)) continue;
            const double evidence = evidenceOfWide(response, *spot);
            // Heat that crossed the board is hardly as wide as this; hot-air heat that goes away often is.
            constexpr double usual_px = 20, leastOfUnusual = 100;
            if (evidence > (spot->width_px > usual_px ? leastOfUnusual : leastOfWide))
                best = {*spot, evidence};
        }
    }
    return best;
}

} // namespace ustor
