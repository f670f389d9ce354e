#include "thermal/heat_maps.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <fstream>
#include <limits>
#include <numbers>
#include <tiffio.h>

namespace ustor {
namespace {

constexpr float unknown = std::numeric_limits<float>::quiet_NaN();

/// From a little below nothing to what only few pixels exceed.
void spanFrom(HeatMap& map, double share) {
    std::vector<float> known;
    for (const float v : cv::Mat_<float>(map.values))
        if (std::isfinite(v)) known.push_back(v);
    if (known.empty()) return;
    const auto at = known.begin() + static_cast<long>(share * static_cast<double>(known.size() - 1));
    std::nth_element(known.begin(), at, known.end());
    map.high = std::max<double>(*at, std::max(4 * map.sigma, 1e-9));
}

HeatMap oddsMap(const StepResponse& response, const LocateResult& located) {
    HeatMap map{
        HeatMapKind::Odds, cv::Mat::zeros(response.height(), response.width(), CV_32FC1), "1/px", 0, 1, 0};
    double all = 0;
    for (const LocatedSource& s : located.sources)
        all += s.spot.snr;
    for (const LocatedSource& s : located.sources) {
        const double sigma = std::max(s.spot.sigma_px, 0.5), share = s.spot.snr / all;
        for (int y = 0; y < map.values.rows; ++y)
            for (int x = 0; x < map.values.cols; ++x) {
                const double r2 = std::pow(x - s.spot.at.x_px, 2) + std::pow(y - s.spot.at.y_px, 2);
                map.values.at<float>(y, x) += static_cast<float>(share * std::exp(-r2 / (2 * sigma * sigma)) /
                                                                 (2 * std::numbers::pi * sigma * sigma));
            }
    }
    double top = 0;
    cv::minMaxLoc(map.values, nullptr, &top);
    map.high = std::max(top, 1e-9);
    return map;
}

Error cannotWrite(const std::filesystem::path& file) {
    return {say("cannot be written"), file.string(), say("nothing else was changed")};
}

} // namespace

std::string_view wordOf(HeatMapKind kind) {
    switch (kind) {
    case HeatMapKind::FirstInstant:
        return "first instant";
    case HeatMapKind::Amplitude:
        return "amplitude";
    case HeatMapKind::Delay:
        return "delay";
    case HeatMapKind::Odds:
        return "odds";
    }
    return "odds";
}

const std::vector<HeatMapKind>& allHeatMaps() {
    static const std::vector<HeatMapKind> all{HeatMapKind::FirstInstant, HeatMapKind::Amplitude,
                                              HeatMapKind::Delay, HeatMapKind::Odds};
    return all;
}

HeatMap heatMapOf(HeatMapKind kind, const StepResponse& response, const LocateResult& located) {
    if (kind == HeatMapKind::Odds) return oddsMap(response, located);
    constexpr double first_s = 0.3, most = 0.9995;
    HeatMap map{kind, {}, kind == HeatMapKind::Delay ? "s" : "K/W", 0, 1, 0};
    if (kind == HeatMapKind::FirstInstant) {
        const auto maps = response.at(first_s);
        map.values = maps.rise_k_per_w;
        map.sigma = maps.sigma_k_per_w;
        spanFrom(map, most);
        return map;
    }
    const auto wave = response.atRate();
    cv::Mat amplitude;
    cv::magnitude(wave.inPhase, wave.behind, amplitude);
    if (kind == HeatMapKind::Amplitude) {
        map.values = amplitude;
        map.sigma = wave.sigma_k_per_w;
        spanFrom(map, most);
        return map;
    }
    constexpr double clear = 4;
    map.values = cv::Mat(amplitude.size(), CV_32FC1, cv::Scalar(unknown));
    for (int y = 0; y < amplitude.rows; ++y)
        for (int x = 0; x < amplitude.cols; ++x)
            if (amplitude.at<float>(y, x) > clear * wave.sigma_k_per_w)
                map.values.at<float>(y, x) = static_cast<float>(
                    std::atan2(wave.behind.at<float>(y, x), wave.inPhase.at<float>(y, x)) / wave.rate_rad_s);
    map.high =
        0.5 * std::numbers::pi / wave.rate_rad_s; // a quarter of a pulse: what only integrates lags by that
    return map;
}

Outcome writeMapTiff(const HeatMap& map, const std::filesystem::path& file) {
    TIFF* tiff = TIFFOpen(file.c_str(), "w");
    if (!tiff) return cannotWrite(file);
    TIFFSetField(tiff, TIFFTAG_IMAGEWIDTH, map.values.cols);
    TIFFSetField(tiff, TIFFTAG_IMAGELENGTH, map.values.rows);
    TIFFSetField(tiff, TIFFTAG_BITSPERSAMPLE, 32);
    TIFFSetField(tiff, TIFFTAG_SAMPLEFORMAT, SAMPLEFORMAT_IEEEFP);
    TIFFSetField(tiff, TIFFTAG_SAMPLESPERPIXEL, 1);
    TIFFSetField(tiff, TIFFTAG_PHOTOMETRIC, PHOTOMETRIC_MINISBLACK);
    TIFFSetField(tiff, TIFFTAG_ROWSPERSTRIP, map.values.rows);
    std::string about(wordOf(map.kind));
    about.append(", ").append(map.unit);
    TIFFSetField(tiff, TIFFTAG_IMAGEDESCRIPTION, about.c_str());
    bool whole = true;
    for (int y = 0; y < map.values.rows && whole; ++y)
        whole = TIFFWriteScanline(tiff, const_cast<float*>(map.values.ptr<float>(y)),
                                  static_cast<std::uint32_t>(y)) == 1;
    whole = TIFFFlush(tiff) == 1 && whole;
    TIFFClose(tiff);
    if (whole) return Done{};
    return cannotWrite(file);
}

Outcome writeMapCsv(const HeatMap& map, const std::filesystem::path& file) {
    std::ofstream out(file, std::ios::binary);
    for (int y = 0; y < map.values.rows; ++y) {
        for (int x = 0; x < map.values.cols; ++x) {
            if (x > 0) out << ',';
            const float value = map.values.at<float>(y, x);
            if (std::isfinite(value)) out << value;
        }
        out << '\n';
    }
    out.flush();
    if (out) return Done{};
    return cannotWrite(file);
}

std::vector<double> profileAlong(const cv::Mat& values, PixelPoint from, PixelPoint to) {
    const int steps = std::max(1, static_cast<int>(std::lround(distance_px(from, to))));
    std::vector<double> along;
    for (int i = 0; i <= steps; ++i) {
        const double share = static_cast<double>(i) / steps;
        const double x = std::clamp(from.x_px + share * (to.x_px - from.x_px), 0.0, values.cols - 1.001),
                     y = std::clamp(from.y_px + share * (to.y_px - from.y_px), 0.0, values.rows - 1.001);
        const int ix = static_cast<int>(x), iy = static_cast<int>(y);
        const double u = x - ix, v = y - iy;
        const float *above = values.ptr<float>(iy) + ix, *below = values.ptr<float>(iy + 1) + ix;
        along.push_back((1 - v) * ((1 - u) * above[0] + u * above[1]) +
                        v * ((1 - u) * below[0] + u * below[1]));
    }
    return along;
}

} // namespace ustor
