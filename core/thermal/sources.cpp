#include "thermal/sources.h"

#include "base/check.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>
#include <optional>

namespace ustor {
namespace {

/// A spot's scale against the area around it, in px: the band between them holds what is point-like.
constexpr double spotScale_px = 1.0, areaScale_px = 3.5;

cv::Mat pointLike(const cv::Mat& map) {
    cv::Mat spot, area;
    cv::GaussianBlur(map, spot, {}, spotScale_px, spotScale_px, cv::BORDER_REFLECT);
    cv::GaussianBlur(map, area, {}, areaScale_px, areaScale_px, cv::BORDER_REFLECT);
    return spot - area;
}

/// What the band filter leaves of white noise with deviation 1: the norm of its kernel.
double filterNoise() {
    static const double norm = [] {
        cv::Mat impulse = cv::Mat::zeros(63, 63, CV_32FC1);
        impulse.at<float>(31, 31) = 1;
        return cv::norm(pointLike(impulse));
    }();
    return norm;
}

/// Structure that is not camera noise (glare on cans, edges that moved) raises the floor: the robust spread
/// of the map.
double robustSpread(const cv::Mat& map) {
    std::vector<float> values(map.begin<float>(), map.end<float>());
    for (float& v : values)
        v = std::fabs(v);
    const auto middle = values.begin() + static_cast<long>(values.size() / 2);
    std::nth_element(values.begin(), middle, values.end());
    return *middle * 1.4826;
}

/// Spot model: A exp(-r^2 / 2 w^2) + ground, parameters (A, x, y, w, ground).
using Params = Eigen::Matrix<double, 5, 1>;

struct Window {
    const cv::Mat& map;
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
            sum += left * left;
            if (!normal) continue;
            Params d;
            d << shape, p[0] * shape * dx / w2, p[0] * shape * dy / w2,
                p[0] * shape * (dx * dx + dy * dy) / (w2 * p[3]), 1;
            *normal += d * d.transpose();
            *gradient += d * left;
        }
    return sum;
}

std::optional<HeatSource> fitSpot(const cv::Mat& map, cv::Point peak, double sigma) {
    constexpr int reach = 4;
    const Window window{map, std::max(0, peak.x - reach), std::max(0, peak.y - reach),
                        std::min(map.cols - 1, peak.x + reach), std::min(map.rows - 1, peak.y + reach)};
    Params p;
    const cv::Mat patch = map(cv::Range(window.y0, window.y1 + 1), cv::Range(window.x0, window.x1 + 1));
    double low = 0;
    cv::minMaxLoc(patch, &low, nullptr);
    p << map.at<float>(peak) - low, peak.x, peak.y, 1.6, low;

    double damping = 1e-3, error = residuals(window, p, nullptr, nullptr);
    Eigen::Matrix<double, 5, 5> normal;
    Params gradient;
    for (int step = 0; step < 40; ++step) {
        residuals(window, p, &normal, &gradient);
        Eigen::Matrix<double, 5, 5> damped = normal;
        damped.diagonal() *= 1 + damping;
        Params next = p + damped.ldlt().solve(gradient);
        next[3] = std::clamp(std::fabs(next[3]), 0.5, 6.0);
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

} // namespace

std::vector<HeatSource> findSources(const cv::Mat& map, double sigma, double leastSnr, int most) {
    USTOR_CHECK(map.type() == CV_32FC1, "a response map");
    cv::Mat band = pointLike(map);
    const double floor = std::max(sigma * filterNoise(), robustSpread(band));
    std::vector<HeatSource> sources;
    if (!(floor > 0)) return sources;
    // The filter rings at the border: nothing is claimed there.
    constexpr int border = 2;
    for (int tries = 0; tries < 4 * most && static_cast<int>(sources.size()) < most; ++tries) {
        double top = 0;
        cv::Point peak;
        const cv::Rect inner(border, border, band.cols - 2 * border, band.rows - 2 * border);
        cv::minMaxLoc(band(inner), nullptr, &top, nullptr, &peak);
        peak += inner.tl();
        if (top < leastSnr * floor) break;
        auto source = fitSpot(map, peak, sigma);
        constexpr double apart_px = 3.0;
        const auto near = [&](const HeatSource& other) {
            return source && distance_px(other.at, source->at) < apart_px;
        };
        if (source && std::none_of(sources.begin(), sources.end(), near)) {
            source->snr = top / floor;
            sources.push_back(*source);
        }
        cv::circle(band, peak, static_cast<int>(apart_px), cv::Scalar(0), cv::FILLED);
    }
    return sources;
}

} // namespace ustor
