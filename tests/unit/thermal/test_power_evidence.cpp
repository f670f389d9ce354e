#include "base/random.h"
#include "thermal/step_response.h"
#include "unit/thermal/test_thermal.h"

#include <QTest>
#include <cmath>
#include <functional>
#include <numbers>

using namespace ustor;

namespace {

constexpr int width = 40, height = 30;
constexpr double noise_k = 0.06;

/// Half a minute of uneven pulses; `course` is added to the pixel in the middle of noise.
StepResponse responseTo(const std::function<double(double time_s, double lagged_w)>& course) {
    Random random(21);
    StepResponse response(width, height);
    double lagged_w = 0;
    for (int i = 0; i < 750; ++i) {
        const double time_s = i / 25.0;
        const double watts = std::fmod(time_s, 3.1) < 1.4 && time_s > 1 ? 1 : 0;
        lagged_w += (watts - lagged_w) * (1 - std::exp(-0.04 / 0.5));
        cv::Mat frame(height, width, CV_32FC1);
        for (int k = 0; k < static_cast<int>(frame.total()); ++k)
            frame.ptr<float>()[k] = static_cast<float>(noise_k * random.normal());
        frame.at<float>(height / 2, width / 2) += static_cast<float>(course(time_s, lagged_w));
        response.add(time_s, watts, frame);
    }
    return response;
}

struct Evidence {
    double slow = 0, quick = 0;
};

Evidence evidenceAt(const StepResponse& response, int x, int y) {
    cv::Mat weights = cv::Mat::zeros(height, width, CV_32FC1);
    weights.at<float>(y, x) = 1;
    const cv::Rect pixel(x, y, 1, 1);
    return {response.slowOverChance(weights, pixel), response.quickOverChance(weights, pixel)};
}

} // namespace

// White noise exceeds the tables' 5 % points in 5 % of the pixels: F(3, 12) 3.49; F(1, 12) 4.75, which the
// best of three lags that are much alike exceeds up to three times as often.
void TestPowerEvidence::noiseIsFDistributed() {
    const StepResponse response = responseTo([](double, double) { return 0.0; });
    int slow = 0, quick = 0;
    for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x) {
            const Evidence evidence = evidenceAt(response, x, y);
            slow += evidence.slow > 3.49;
            quick += evidence.quick > 4.75;
        }
    constexpr double pixels = width * height;
    QVERIFY2(slow / pixels > 0.025 && slow / pixels < 0.085, qPrintable(QString::number(slow / pixels)));
    QVERIFY2(quick / pixels > 0.04 && quick / pixels < 0.16, qPrintable(QString::number(quick / pixels)));
}

void TestPowerEvidence::heatIsThePowersAndSwayIsNot() {
    const Evidence heat =
        evidenceAt(responseTo([](double, double lagged_w) { return 0.3 * lagged_w; }), width / 2, height / 2);
    QVERIFY2(heat.quick > 50, qPrintable(QString::number(heat.quick)));
    const Evidence sway = evidenceAt(responseTo([](double time_s, double) {
                                         return 0.3 * std::sin(2 * std::numbers::pi * 0.26 * time_s);
                                     }),
                                     width / 2, height / 2);
    QVERIFY2(sway.quick < 12 && sway.slow < 16, qPrintable(QString("%1 %2").arg(sway.quick).arg(sway.slow)));
    const Evidence cooling = evidenceAt(
        responseTo([](double time_s, double) { return 2 * std::exp(-time_s / 12); }), width / 2, height / 2);
    QVERIFY2(cooling.quick < 12 && cooling.slow < 16,
             qPrintable(QString("%1 %2").arg(cooling.quick).arg(cooling.slow)));
}
