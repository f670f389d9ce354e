#include "thermal/sources.h"

#include "base/check.h"
#include "base/median.h"
#include "thermal/spot_fit.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

namespace ustor {
namespace {

/// Structure that is not camera noise (glare on cans, edges that moved) raises the floor: the robust spread
/// of the map.
double robustSpread(const cv::Mat& map) {
    std::vector<float> values(map.begin<float>(), map.end<float>());
    for (float& v : values)
        v = std::fabs(v);
    return medianOf(std::move(values)) * 1.4826;
}

/// 1 / variance of each pixel over that of one with camera noise alone. Twelve maps tell a variance to 40 %;
/// with the neighbours they are surer, but what lies beside a mirror is none. The pixel's own counts as well:
/// a single dead one must not pass.
cv::Mat weightsFrom(const ChanceMaps& chance, cv::Size size) {
    cv::Mat variance = cv::Mat::zeros(size, CV_32FC1);
    for (const cv::Mat& map : chance)
        variance += map.mul(map) / static_cast<double>(chance.size());
    cv::Mat weight(size, CV_32FC1, cv::Scalar(1));
    if (chance.empty()) return weight;
    constexpr double ownShare = 0.5;
    cv::Mat around;
    cv::medianBlur(variance, around, 3);
    variance = cv::max(cv::max(around, ownShare * variance), 1.0);
    cv::divide(weight, variance, weight);
    return weight;
}

} // namespace

bool hasEnd(const HeatSource& spot, const SpotScale& scale) {
    constexpr double nearly = 0.98;
    return spot.width_px < nearly * scale.widest;
}

ChanceFloor floorFrom(const ChanceMaps& chance, cv::Size size, const SpotScale& scale, const cv::Mat& quiet) {
    constexpr double hidden = 1e-3, leastSeen = 0.25, never = 1e9;
    cv::Mat weight = weightsFrom(chance, size);
    if (!quiet.empty()) weight = weight.mul(cv::max(quiet, hidden));
    ChanceFloor floor{SpotBand(weight, scale), {}};
    floor.deviation = floor.band.deviation();
    if (!chance.empty()) {
        cv::Mat seen = cv::Mat::zeros(size, CV_32FC1);
        for (const cv::Mat& one : chance)
            cv::accumulateSquare(floor.band.value(one), seen);
        seen /= static_cast<double>(chance.size());
        constexpr double ownShare = 0.7, neighbours = 1.5;
        // Twelve maps tell it badly; neighbours help, but for those that hardly count: a part beside a can.
        cv::Mat around;
        cv::divide(blurred(seen.mul(weight), neighbours * scale.spot),
                   blurred(weight, neighbours * scale.spot), around);
        cv::sqrt(cv::max(around, ownShare * seen), around);
        floor.deviation = cv::max(floor.deviation, around);
    }
    if (!quiet.empty()) floor.deviation.setTo(never, blurred(quiet, scale.spot) < leastSeen);
    return floor;
}

std::vector<HeatSource> findSources(const StepResponse::Maps& maps, const ChanceFloor& floor, double leastSnr,
                                    int most) {
    const cv::Mat& map = maps.rise_k_per_w;
    USTOR_CHECK(map.type() == CV_32FC1, "a response map");
    const SpotScale& scale = floor.band.scale();
    const double sigma = std::max(maps.sigma_k_per_w, 1e-12);
    SpotBand band = floor.band;
    cv::Mat deviation = floor.deviation;
    if (!maps.excess.empty()) {
        band = SpotBand(band.weight() / maps.excess.mul(maps.excess), scale);
        deviation = deviation.mul(blurred(maps.excess, scale.spot));
    }
    cv::Mat snr;
    cv::divide(band.value(map), deviation * sigma, snr);
    // Where all of the picture is restless beyond that, this is the floor.
    snr /= std::max(1.0, robustSpread(snr));
    std::vector<HeatSource> sources;
    // The filter rings at the border: nothing is claimed there.
    const int border = static_cast<int>(std::lround(2 * scale.spot));
    const cv::Rect inner(border, border, snr.cols - 2 * border, snr.rows - 2 * border);
    if (inner.width < 1 || inner.height < 1) return sources;
    for (int tries = 0; tries < 4 * most && static_cast<int>(sources.size()) < most; ++tries) {
        double top = 0;
        cv::Point peak;
        cv::minMaxLoc(snr(inner), nullptr, &top, nullptr, &peak);
        peak += inner.tl();
        if (!(top >= leastSnr)) break;
        auto source = fitSpot(map, band.weight(), peak, sigma, scale);
        const double apart_px = 3 * scale.spot;
        const auto near = [&](const HeatSource& other) {
            return source && distance_px(other.at, source->at) < apart_px;
        };
        if (source && std::none_of(sources.begin(), sources.end(), near)) {
            source->snr = top;
            sources.push_back(*source);
        }
        cv::circle(snr, peak, static_cast<int>(apart_px), cv::Scalar(0), cv::FILLED);
    }
    return sources;
}

} // namespace ustor
