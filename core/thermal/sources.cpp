#include "thermal/sources.h"

#include "base/check.h"
#include "base/median.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <opencv2/imgproc.hpp>
#include <optional>

namespace ustor {
namespace {

cv::Mat blurred(const cv::Mat& map, double scale_px) {
    cv::Mat out;
    cv::GaussianBlur(map, out, {}, scale_px, scale_px, cv::BORDER_REFLECT);
    return out;
}

/// The band that holds what is point-like, with pixels weighed, and the deviation it has from noise of
/// deviation 1.
struct Band {
    cv::Mat value, deviation;
};

/// Weighed means sum(g w y) / sum(g w) over the spot and over the area; with w = 1 / variance the variance of
/// either is sum(g^2 w) / (sum(g w))^2. A Gaussian squared is a narrower one: g_s^2 = g_(s/sqrt 2) / (4 pi
/// s^2).
Band bandOf(const cv::Mat& map, const cv::Mat& weight, const SpotScale& spot) {
    const cv::Mat weighed = map.mul(weight);
    Band band;
    cv::Mat variance = cv::Mat::zeros(map.size(), CV_32FC1), spotMean;
    for (const double scale : {spot.spot, spot.area}) {
        const cv::Mat sum = blurred(weight, scale);
        cv::Mat mean;
        cv::divide(blurred(weighed, scale), sum, mean);
        cv::Mat own;
        cv::divide(blurred(weight, scale / std::numbers::sqrt2), sum.mul(sum), own);
        variance += own / (4 * std::numbers::pi * scale * scale);
        if (spotMean.empty())
            spotMean = mean;
        else
            band.value = spotMean - mean;
    }
    cv::sqrt(variance, band.deviation);
    return band;
}

/// Structure that is not camera noise (glare on cans, edges that moved) raises the floor: the robust spread
/// of the map.
double robustSpread(const cv::Mat& map) {
    std::vector<float> values(map.begin<float>(), map.end<float>());
    for (float& v : values)
        v = std::fabs(v);
    return medianOf(std::move(values)) * 1.4826;
}

/// Spot model: A exp(-r^2 / 2 w^2) + ground, parameters (A, x, y, w, ground).
using Params = Eigen::Matrix<double, 5, 1>;

struct Window {
    const cv::Mat &map, &weight; ///< weight: 1 / variance over that of a good pixel
    int x0, y0, x1, y1;
};

double residuals(const Window& window, const Params& p, Eigen::Matrix<double, 5, 5>* normal,
                 Params* gradient) {
    double sum = 0;
    if (normal) normal->setZero();
    if (gradient) gradient->setZero();
    for (int y = window.y0; y <= window.y1; ++y)
        for (int x = window.x0; x <= window.x1; ++x) {
            const double dx = x - p[1], dy = y - p[2], w2 = p[3] * p[3];
            const double shape = std::exp(-(dx * dx + dy * dy) / (2 * w2));
            const double left = window.map.at<float>(y, x) - (p[0] * shape + p[4]);
            const double weight = window.weight.at<float>(y, x);
            sum += weight * left * left;
            if (!normal) continue;
            Params d;
            d << shape, p[0] * shape * dx / w2, p[0] * shape * dy / w2,
                p[0] * shape * (dx * dx + dy * dy) / (w2 * p[3]), 1;
            *normal += weight * d * d.transpose();
            *gradient += weight * left * d;
        }
    return sum;
}

std::optional<HeatSource> fitSpot(const cv::Mat& map, const cv::Mat& weight, cv::Point peak, double sigma,
                                  const SpotScale& scale) {
    const int reach = scale.reach;
    const Window window{map,
                        weight,
                        std::max(0, peak.x - reach),
                        std::max(0, peak.y - reach),
                        std::min(map.cols - 1, peak.x + reach),
                        std::min(map.rows - 1, peak.y + reach)};
    Params p;
    const cv::Mat patch = map(cv::Range(window.y0, window.y1 + 1), cv::Range(window.x0, window.x1 + 1));
    double low = 0;
    cv::minMaxLoc(patch, &low, nullptr);
    p << map.at<float>(peak) - low, peak.x, peak.y, 1.6 * scale.spot, low;

    double damping = 1e-3, error = residuals(window, p, nullptr, nullptr);
    Eigen::Matrix<double, 5, 5> normal;
    Params gradient;
    for (int step = 0; step < 40; ++step) {
        residuals(window, p, &normal, &gradient);
        Eigen::Matrix<double, 5, 5> damped = normal;
        damped.diagonal() *= 1 + damping;
        Params next = p + damped.ldlt().solve(gradient);
        next[3] = std::clamp(std::fabs(next[3]), 0.5, scale.widest);
        const double nextError = residuals(window, next, nullptr, nullptr);
        if (!(nextError < error)) {
            damping *= 10;
            if (damping > 1e6) break;
            continue;
        }
        const bool settled = (next - p).cwiseAbs().segment<2>(1).maxCoeff() < 1e-5;
        p = next;
        error = nextError;
        damping = std::max(damping / 10, 1e-9);
        if (settled) break;
    }
    const bool inside = std::fabs(p[1] - peak.x) < reach && std::fabs(p[2] - peak.y) < reach && p[0] > 0;
    if (!inside) return std::nullopt;
    residuals(window, p, &normal, &gradient);
    const auto pixels = (window.x1 - window.x0 + 1) * (window.y1 - window.y0 + 1);
    const double spread = std::max(sigma, std::sqrt(error / std::max(1, pixels - 5)));
    const Eigen::Matrix<double, 5, 5> covariance =
        normal.ldlt().solve(Eigen::Matrix<double, 5, 5>::Identity()) * spread * spread;
    HeatSource source;
    source.at = {p[1], p[2]};
    source.sigma_px = std::sqrt(std::max({covariance(1, 1), covariance(2, 2), 1e-8}));
    source.width_px = p[3];
    source.rise_k_per_w = p[0];
    return source;
}

/// 1 / variance of each pixel over that of one with camera noise alone. Twelve maps tell a variance to 40 %;
/// with the neighbours they are surer. The pixel's own counts as well: a single dead one must not pass.
cv::Mat weightsFrom(const ChanceMaps& chance, cv::Size size) {
    cv::Mat variance = cv::Mat::zeros(size, CV_32FC1);
    for (const cv::Mat& map : chance)
        variance += map.mul(map) / static_cast<double>(chance.size());
    cv::Mat weight(size, CV_32FC1, cv::Scalar(1));
    if (chance.empty()) return weight;
    constexpr double ownShare = 0.5;
    variance = cv::max(cv::max(blurred(variance, 1.0), ownShare * variance), 1.0);
    cv::divide(weight, variance, weight);
    return weight;
}

} // namespace

ChanceFloor floorFrom(const ChanceMaps& chance, cv::Size size, const SpotScale& scale) {
    ChanceFloor floor{scale, weightsFrom(chance, size), {}};
    const Band white = bandOf(cv::Mat::zeros(size, CV_32FC1), floor.weight, scale);
    cv::Mat variance = white.deviation.mul(white.deviation);
    if (!chance.empty()) {
        const cv::Mat spotSum = blurred(floor.weight, scale.spot),
                      areaSum = blurred(floor.weight, scale.area);
        cv::Mat seen = cv::Mat::zeros(size, CV_32FC1), spot, area;
        for (const cv::Mat& one : chance) {
            const cv::Mat weighed = one.mul(floor.weight);
            cv::divide(blurred(weighed, scale.spot), spotSum, spot);
            cv::divide(blurred(weighed, scale.area), areaSum, area);
            spot -= area;
            seen += spot.mul(spot) / static_cast<double>(chance.size());
        }
        constexpr double ownShare = 0.7;
        variance = cv::max(variance, cv::max(blurred(seen, 1.5 * scale.spot), ownShare * seen));
    }
    cv::sqrt(variance, floor.deviation);
    return floor;
}

std::vector<HeatSource> findSources(const StepResponse::Maps& maps, const ChanceFloor& floor, double leastSnr,
                                    int most) {
    const cv::Mat& map = maps.rise_k_per_w;
    USTOR_CHECK(map.type() == CV_32FC1, "a response map");
    const SpotScale& scale = floor.scale;
    const double sigma = std::max(maps.sigma_k_per_w, 1e-12);
    cv::Mat weight = floor.weight, deviation = floor.deviation;
    if (!maps.excess.empty()) {
        weight = weight / maps.excess.mul(maps.excess);
        deviation = deviation.mul(blurred(maps.excess, scale.spot));
    }
    cv::Mat snr;
    cv::divide(bandOf(map, weight, scale).value, deviation * sigma, snr);
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
        auto source = fitSpot(map, weight, peak, sigma, scale);
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
