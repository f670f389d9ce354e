#include "thermal/emissivity.h"

#include "base/number_text.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

namespace ustor {
namespace {

// CODATA 2018, exact.
constexpr double planck_j_s = 6.62607015e-34, light_m_s = 2.99792458e8, boltzmann_j_k = 1.380649e-23;

double spectral(double metres, double kelvin) {
    const double x = planck_j_s * light_m_s / (metres * boltzmann_j_k * kelvin);
    return 2 * planck_j_s * light_m_s * light_m_s / (std::pow(metres, 5) * std::expm1(x));
}

} // namespace

double bandRadiance_w_m2sr(double kelvin) {
    if (kelvin <= 0) return 0;
    // Simpson's rule: Planck's law is smooth over less than an octave.
    constexpr double from_m = 8e-6, to_m = 14e-6;
    constexpr int intervals = 64;
    constexpr double step_m = (to_m - from_m) / intervals;
    double sum = spectral(from_m, kelvin) + spectral(to_m, kelvin);
    for (int i = 1; i < intervals; ++i)
        sum += (i % 2 ? 4 : 2) * spectral(from_m + i * step_m, kelvin);
    return sum * step_m / 3;
}

std::optional<double> surfaceKelvin(double apparent_k, double emissivity, double reflected_k) {
    if (emissivity <= 0 || emissivity > 1) return std::nullopt;
    const double own =
        (bandRadiance_w_m2sr(apparent_k) - (1 - emissivity) * bandRadiance_w_m2sr(reflected_k)) / emissivity;
    if (own <= 0) return std::nullopt;
    double low = 1, high = 3000;
    if (own > bandRadiance_w_m2sr(high)) return std::nullopt;
    constexpr int halvings = 60;
    for (int i = 0; i < halvings; ++i) {
        const double middle = (low + high) / 2;
        (bandRadiance_w_m2sr(middle) < own ? low : high) = middle;
    }
    return (low + high) / 2;
}

double shownShare(double kelvin, double emissivity, double reflected_k) {
    constexpr double step_k = 0.05;
    const auto slope = [](double at) {
        return (bandRadiance_w_m2sr(at + step_k) - bandRadiance_w_m2sr(at - step_k)) / (2 * step_k);
    };
    const double seen =
        emissivity * bandRadiance_w_m2sr(kelvin) + (1 - emissivity) * bandRadiance_w_m2sr(reflected_k);
    double low = 1, high = 3000;
    constexpr int halvings = 60;
    for (int i = 0; i < halvings; ++i) {
        const double middle = (low + high) / 2;
        (bandRadiance_w_m2sr(middle) < seen ? low : high) = middle;
    }
    return emissivity * slope(kelvin) / slope((low + high) / 2);
}

double emissivityOf(Surface surface) {
    switch (surface) {
    case Surface::Mask:
    case Surface::Ceramic:
        return 0.9;
    case Surface::Plastic:
        return 0.92;
    case Surface::BareMetal:
        return 0.15;
    }
    return 0.9;
}

Surface surfaceOf(const Part& part) {
    const std::string words = lowered(part.package + " " + part.value);
    const auto says = [&](std::string_view word) { return words.find(word) != std::string::npos; };
    if (says("shield") || says("can")) return Surface::BareMetal;
    switch (part.partClass) {
    case PartClass::Connector:
    case PartClass::Crystal:
        return Surface::BareMetal;
    case PartClass::CeramicCapacitor:
    case PartClass::Resistor:
    case PartClass::SenseResistor:
    case PartClass::Ferrite:
    case PartClass::Fuse:
        return Surface::Ceramic;
    default:
        return Surface::Plastic;
    }
}

cv::Mat emissivityMap(const Board& board, const Registration& registration, cv::Size size) {
    cv::Mat map(size, CV_32FC1, cv::Scalar(emissivityOf(Surface::Mask)));
    for (const Part& part : board.parts) {
        if (part.side != registration.side() || part.width_mm <= 0 || part.height_mm <= 0) continue;
        std::vector<cv::Point> corners;
        for (const BoardPoint corner : cornersOf(part)) {
            const PixelPoint p = registration.toImage(corner);
            corners.emplace_back(static_cast<int>(std::lround(p.x_px)),
                                 static_cast<int>(std::lround(p.y_px)));
        }
        cv::fillConvexPoly(map, corners, cv::Scalar(emissivityOf(surfaceOf(part))));
    }
    return map;
}

} // namespace ustor
