#include "thermal/power_evidence.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace ustor {
namespace {

/// Mean over a round spot less the mean around it, as weights of the pixels.
struct Contrast {
    cv::Mat weights;
    cv::Rect within;
};

Contrast contrastOf(PixelPoint at, double inner_px, double outer_px, const cv::Mat& counts) {
    constexpr double reach = 2.5;
    const int far = static_cast<int>(std::ceil(reach * outer_px));
    Contrast contrast;
    contrast.within = cv::Rect(static_cast<int>(std::lround(at.x_px)) - far,
                               static_cast<int>(std::lround(at.y_px)) - far, 2 * far + 1, 2 * far + 1) &
                      cv::Rect({}, counts.size());
    cv::Mat here = cv::Mat::zeros(counts.size(), CV_32FC1), beside = here.clone();
    for (int y = contrast.within.y; y < contrast.within.br().y; ++y)
        for (int x = contrast.within.x; x < contrast.within.br().x; ++x) {
            const double away2 = std::pow(x - at.x_px, 2) + std::pow(y - at.y_px, 2);
            const auto weight = [&](double px) {
                return counts.at<float>(y, x) * static_cast<float>(std::exp(-away2 / (2 * px * px)));
            };
            here.at<float>(y, x) = weight(inner_px);
            beside.at<float>(y, x) = weight(outer_px);
        }
    const double ofHere = cv::sum(here)[0], ofBeside = cv::sum(beside)[0];
    if (ofHere > 0) contrast.weights = here / ofHere - beside / ofBeside;
    return contrast;
}

} // namespace

double evidenceOfWide(const StepResponse& response, const HeatSource& spot) {
    constexpr double around = 2.5;
    const cv::Mat counts = response.quiet().mul(response.seenThroughout());
    // The smaller, the less of what passes over board and surroundings alike; the larger, the less noise.
    double best = 0;
    for (const double px : {3.0, 6.0, std::max(1.5, spot.width_px)}) {
        const Contrast contrast = contrastOf(spot.at, px, around * px, counts);
        if (!contrast.weights.empty())
            best = std::max(best, response.slowOverChance(contrast.weights, contrast.within));
    }
    return best;
}

double evidenceOfPart(const StepResponse& response, const HeatSource& spot, const cv::Mat& weight) {
    const cv::Mat seen = response.seenThroughout();
    // Its frames are not all frames: the signal to noise has to do.
    if (seen.at<float>(static_cast<int>(std::lround(spot.at.y_px)),
                       static_cast<int>(std::lround(spot.at.x_px))) == 0)
        return std::numeric_limits<double>::infinity();
    const cv::Mat counts = weight.mul(seen);
    constexpr double around = 3;
    double best = 0;
    for (const double px : {1.2, 2.0}) {
        const Contrast contrast = contrastOf(spot.at, px, around * px, counts);
        if (!contrast.weights.empty())
            best = std::max(best, response.quickOverChance(contrast.weights, contrast.within));
    }
    return best;
}

} // namespace ustor
