#pragma once

#include "thermal/sources.h"

#include <optional>

namespace ustor {

cv::Mat blurred(const cv::Mat& map, double scale_px);

/// The band that holds what is point-like, with pixels weighed, and the deviation it has from noise of
/// deviation 1.
struct Band {
    cv::Mat value, deviation;
};

/// Weighed means sum(g w y) / sum(g w) over the spot and over the area; with w = 1 / variance the variance of
/// either is sum(g^2 w) / (sum(g w))^2. A Gaussian squared is a narrower one: g_s^2 = g_(s/sqrt 2) / (4 pi
/// s^2).
Band bandOf(const cv::Mat& map, const cv::Mat& weight, const SpotScale& spot);

/// A round Gaussian on a flat ground, fitted in the window around a peak by least squares with pixels
/// weighed. `sigma`: noise of a pixel of weight 1, in the map's unit. Nothing where the fit leaves the
/// window.
std::optional<HeatSource> fitSpot(const cv::Mat& map, const cv::Mat& weight, cv::Point peak, double sigma,
                                  const SpotScale& scale);

} // namespace ustor
