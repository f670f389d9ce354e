#include "diagnosis/evidence/reading_likelihood.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ustor {
namespace {

double normalDensity(double x, double mean, double sigma) {
    const double z = (x - mean) / sigma;
    return std::exp(-0.5 * z * z) / (sigma * std::sqrt(2 * std::numbers::pi));
}

/// Half the distance of two levels on the logarithm, and what meters and leads are off by.
constexpr double levelSigma = 0.4;
/// Contacts of the probes add about this much (common practice).
constexpr double contact_ohms = 0.08, contactSigma_ohms = 0.12;
constexpr double least_ohms = 0.01, most_ohms = 2e7, diodeSpan_v = 2.5;
/// A probe that does not touch.
constexpr double untouched = 0.02;

double ohmsDensity(const Reading& reading, const PredictedReading& predicted, const ReadingDoubt& doubt) {
    constexpr double far_ohms = 3e6;
    if (reading.state == ReadingState::OverRange) {
        if (predicted.overRange) return 0.9;
        return predicted.value > far_ohms ? 0.5 : untouched;
    }
    if (predicted.overRange) {
        // What charges or leaks shows kilohms and more; less is another pad, which is counted beside this.
        constexpr double charging_ohms = 1e4, charges = 0.1, hardlyEver = 0.01;
        return reading.value > charging_ohms ? charges / std::log(most_ohms / charging_ohms)
                                             : hardlyEver * strayDensity(reading);
    }
    const double shown = std::max(reading.value, least_ohms);
    // What is added is small beside the larger of the two: no contact makes 0.1 ohms of five, nor five of
    // 0.1.
    const double additive =
        (contactSigma_ohms + reading.resolution) / std::max({shown, predicted.value + contact_ohms, 0.1});
    const double beep = reading.mode == MeterMode::Beep ? 0.3 : 0, drift = doubt.warm ? 0.25 : 0;
    const double sigma =
        std::sqrt(levelSigma * levelSigma + additive * additive + beep * beep + drift * drift);
    return (1 - untouched) * normalDensity(std::log(shown), std::log(predicted.value + contact_ohms), sigma);
}

double diodeDensity(const Reading& reading, const PredictedReading& predicted, const ReadingDoubt& doubt) {
    const double junction = predicted.junctionShare;
    // A rail whose chips hardly conduct shows nothing (common practice: OL on an unloaded one).
    const double open = untouched + 0.12 * junction;
    if (reading.state == ReadingState::OverRange) return predicted.overRange ? 0.8 : open;
    if (predicted.overRange) return 0.2 / diodeSpan_v;
    const double own = (1 - junction) * levelSigma * predicted.value;
    const double spread = (doubt.warm ? 0.13 : 0.09) * junction;
    constexpr double contact_v = 0.003;
    const double sigma = std::sqrt(own * own + spread * spread + contact_v * contact_v +
                                   reading.resolution * reading.resolution);
    return (1 - open) * normalDensity(reading.value, predicted.value, sigma);
}

} // namespace

double readingDensity(const Reading& reading, const PredictedReading& predicted, const ReadingDoubt& doubt) {
    if (reading.mode == MeterMode::Diode) return diodeDensity(reading, predicted, doubt);
    return ohmsDensity(reading, predicted, doubt);
}

double strayDensity(const Reading& reading) {
    constexpr double open = 0.12;
    if (reading.state == ReadingState::OverRange) return open;
    return (1 - open) / (reading.mode == MeterMode::Diode ? diodeSpan_v : std::log(most_ohms / least_ohms));
}

namespace {

/// What the same thing reads a second time.
constexpr double again = 0.04, againContact_v = 0.003;

double againSigma(const Reading& reading, double larger_ohms) {
    return again + (contactSigma_ohms + reading.resolution) / std::max(larger_ohms, 0.1);
}

} // namespace

double alikeDensity(const Reading& reading, const Reading& other) {
    if (reading.state == ReadingState::OverRange || other.state == ReadingState::OverRange)
        return reading.state == other.state ? 1 : 0;
    if (reading.mode == MeterMode::Diode)
        return normalDensity(reading.value, other.value, againContact_v + again * std::fabs(other.value));
    const double shown = std::max(reading.value, least_ohms), its = std::max(other.value, least_ohms);
    return normalDensity(std::log(shown), std::log(its), againSigma(reading, std::max(shown, its)));
}

std::pair<double, double> alikeRange(const Reading& reading) {
    constexpr double sigmas = 6;
    const double value = reading.value;
    if (reading.mode == MeterMode::Diode)
        return {(value - sigmas * againContact_v) / (1 + sigmas * again),
                (value + sigmas * againContact_v) / (1 - sigmas * again)};
    const double shown = std::max(value, least_ohms), times = std::exp(sigmas * againSigma(reading, shown));
    // What shows less than the least counts as the least.
    return {shown / times <= least_ohms ? 0 : shown / times, shown * times};
}

double slipShare(const ReadingDoubt& doubt) {
    constexpr double usual = 0.02, reversed = 0.4, keptAsExample = 0.002;
    if (doubt.knownGood && !doubt.reversed) return keptAsExample;
    return doubt.reversed ? reversed : usual;
}

} // namespace ustor
