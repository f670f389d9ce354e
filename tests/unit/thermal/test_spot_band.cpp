#include "base/random.h"
#include "thermal/spot_band.h"
#include "unit/thermal/test_thermal.h"

#include <QTest>
#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

using namespace ustor;

void TestSpotBand::blursAreGaussians_data() {
    QTest::addColumn<double>("deviation");
    for (const double deviation : {1.0, 3.0, 5.0, 6.0, 12.0, 24.0, 40.0})
        QTest::addRow("%g px", deviation) << deviation;
}

// Two Gaussians folded make one whose variance is the sum of theirs (any textbook of probability): the hill
// keeps its volume and gets lower as it gets wider.
void TestSpotBand::blursAreGaussians() {
    QFETCH(double, deviation);
    constexpr double hill_px = 5;
    const cv::Point2d middle(190.3, 151.7);
    cv::Mat picture(301, 383, CV_32FC1);
    const auto hill = [&](int x, int y, double variance) {
        return std::exp(-(std::pow(x - middle.x, 2) + std::pow(y - middle.y, 2)) / (2 * variance));
    };
    for (int y = 0; y < picture.rows; ++y)
        for (int x = 0; x < picture.cols; ++x)
            picture.at<float>(y, x) = static_cast<float>(hill(x, y, hill_px * hill_px));
    const cv::Mat out = blurred(picture, deviation);
    QCOMPARE(out.size(), picture.size());
    const double variance = hill_px * hill_px + deviation * deviation, top = hill_px * hill_px / variance;
    double most = 0;
    for (int y = 0; y < picture.rows; ++y)
        for (int x = 0; x < picture.cols; ++x)
            most = std::max(most, std::fabs(out.at<float>(y, x) - top * hill(x, y, variance)) / top);
    QVERIFY2(most < 0.01, qPrintable(QString::number(most)));
    cv::Mat level(97, 61, CV_32FC1, cv::Scalar(2.5));
    QVERIFY(cv::norm(blurred(level, deviation), level, cv::NORM_INF) < 1e-5);
}

// The stated deviation against noise that was drawn, with half of the picture three times as noisy.
void TestSpotBand::deviationIsThatOfNoise() {
    Random random(5);
    for (const SpotScale& scale : {SpotScale::near(), SpotScale::far()}) {
        cv::Mat weight(120, 160, CV_32FC1, cv::Scalar(1)), seen = cv::Mat::zeros(120, 160, CV_32FC1);
        weight(cv::Rect(80, 0, 80, 120)).setTo(1 / 9.0);
        const SpotBand band(weight, scale);
        constexpr int draws = 200;
        for (int i = 0; i < draws; ++i) {
            cv::Mat noise(weight.size(), CV_32FC1);
            for (int k = 0; k < static_cast<int>(noise.total()); ++k)
                noise.ptr<float>()[k] =
                    static_cast<float>(random.normal() / std::sqrt(weight.ptr<float>()[k]));
            cv::accumulateSquare(band.value(noise), seen);
        }
        cv::sqrt(seen / draws, seen);
        const cv::Mat stated = band.deviation();
        // Spot and area share noise, which the statement leaves out: it is on the safe side, by what follows
        // from two Gaussians' overlap, 1 / (2 pi (s^2 + a^2)).
        const double s2 = scale.spot * scale.spot, a2 = scale.area * scale.area;
        const double apart = 1 / (2 * s2) + 1 / (2 * a2), shared = 2 / (s2 + a2);
        const double expected = std::sqrt((apart - shared) / apart);
        // Away from the border, which mirrors noise.
        for (const cv::Rect part : {cv::Rect(40, 40, 24, 40), cv::Rect(96, 40, 24, 40)}) {
            const double ratio = cv::mean(seen(part))[0] / cv::mean(stated(part))[0];
            QVERIFY2(std::fabs(ratio / expected - 1) < 0.04,
                     qPrintable(QString("%1, expected %2").arg(ratio).arg(expected)));
        }
    }
}
