#include "base/random.h"
#include "thermal/step_response.h"
#include "unit/thermal/test_thermal.h"

#include <QTest>
#include <algorithm>
#include <cmath>

using namespace ustor;

// A pulsed source whose answer is one lag, tau = 0.5 s (a step gives A (1 - exp(-t / tau)): any text on
// linear systems), under white noise and a ground that bends: hot-air heat decaying over five minutes and a
// slow swing of the room. An hour of it takes as many sums as ten minutes, tells the same answer, and its
// deviation falls as the root of the time (white noise).
void TestLongStream::asMuchMemoryAfterAnHour() {
    constexpr int width = 12, height = 8, minutes = 60;
    constexpr double step_s = 0.2, tau_s = 0.5, watts = 0.01, rise_k_per_w = 8, noise_k = 0.05, pulse_s = 2,
                     instant_s = 0.6;
    StepResponse response(width, height);
    Random random(11);
    double warm_k = 0, lastWatts = 0;
    std::vector<double> sigmas;
    std::vector<int> sums;
    for (int i = 0; i <= minutes * 60 / step_s; ++i) {
        const double t = i * step_s, now = std::fmod(t, 2 * pulse_s) >= pulse_s ? watts : 0;
        // Exact for power that is linear between frames, as the model takes it.
        const double fade = std::exp(-step_s / tau_s), slope = (now - lastWatts) / step_s;
        warm_k =
            fade * warm_k + rise_k_per_w * (lastWatts * (1 - fade) + slope * (step_s - tau_s * (1 - fade)));
        lastWatts = now;
        const double ground_k = 0.5 * std::exp(-t / 300) + 0.3 * std::sin(t / 300);
        cv::Mat frame(height, width, CV_32FC1);
        for (int p = 0; p < width * height; ++p)
            frame.ptr<float>()[p] =
                static_cast<float>(ground_k + (p % 2 == 0 ? warm_k : 0) + noise_k * random.normal());
        response.add(t, now, frame);
        if (i % static_cast<int>(600 / step_s) != 0 || i == 0) continue;
        sums.push_back(response.sums());
        const auto maps = response.at(instant_s);
        sigmas.push_back(maps.sigma_k_per_w);
        const double wanted = rise_k_per_w * (1 - std::exp(-instant_s / tau_s));
        double squares = 0;
        for (int p = 0; p < width * height; ++p)
            squares += std::pow(
                static_cast<double>(maps.rise_k_per_w.ptr<float>()[p]) - (p % 2 == 0 ? wanted : 0), 2);
        // The bank of lags stands in for this one: it is allowed a twentieth of the answer.
        const double off = std::sqrt(squares / (width * height)),
                     allowed = std::hypot(1.2 * maps.sigma_k_per_w, 0.05 * wanted);
        QVERIFY2(off < allowed, qPrintable(QString("%1 of %2 after %3 s").arg(off).arg(allowed).arg(t)));
        QVERIFY2(std::fabs(response.noise_k() / noise_k - 1) < 0.02,
                 qPrintable(QString("%1 after %2 s").arg(response.noise_k()).arg(t)));
    }
    QCOMPARE(sums.size(), std::size_t(6));
    QCOMPARE(sums.back(), sums.front());
    QVERIFY(std::is_sorted(sigmas.rbegin(), sigmas.rend()));
}
