#include "thermal/spot_fit.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>

namespace ustor {

namespace {

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

} // namespace

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

} // namespace ustor
