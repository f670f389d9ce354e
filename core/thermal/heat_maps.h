#pragma once

#include "base/result.h"
#include "thermal/locate.h"

#include <filesystem>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace ustor {

/// What a response can be looked at as.
enum class HeatMapKind {
    FirstInstant, ///< what a watt has done after 0.3 s: sharp, and where the heat begins
    Amplitude,    ///< how far a place swings with the pulses: broad, free of slow drift
    Delay,        ///< how late a place swings: what is heated lags what heats itself
    Odds          ///< where a source may be, by the places found and their doubts
};
/// "first instant", "amplitude", "delay", "odds".
std::string_view wordOf(HeatMapKind kind);
const std::vector<HeatMapKind>& allHeatMaps();

struct HeatMap {
    HeatMapKind kind = HeatMapKind::FirstInstant;
    cv::Mat values;           ///< CV_32FC1; not a number where nothing is known
    std::string unit;         ///< "K/W", "s" or "1/px"
    double low = 0, high = 1; ///< a span that shows what is there
    double sigma = 0;         ///< camera noise of a value, 0 where it has no single one
};

/// Amplitude and delay are those of the response at the pulses' own rate: H(w) = sum c_k / (1 + i w tau_k),
/// amplitude |H|, delay -arg(H) / w (Breitenstein, Warta, Langenkamp, Lock-in Thermography, Springer, from
/// memory). A delay is told only where the amplitude stands out by four deviations.
HeatMap heatMapOf(HeatMapKind kind, const StepResponse& response, const LocateResult& located);

/// A page of 32-bit floats; the unit is in the description. Any image program opens it.
Outcome writeMapTiff(const HeatMap& map, const std::filesystem::path& file);
/// A row a line of the picture, empty cells where nothing is known.
Outcome writeMapCsv(const HeatMap& map, const std::filesystem::path& file);

/// Values along a straight line between two places, one each pixel's length, bilinear.
std::vector<double> profileAlong(const cv::Mat& values, PixelPoint from, PixelPoint to);

} // namespace ustor
