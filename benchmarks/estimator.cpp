#include "base/random.h"
#include "benchmarks.h"
#include "thermal/step_response.h"

#include <QElapsedTimer>
#include <cstdio>

namespace ustor {

/// The least is adding the frame up once.
void benchEstimator() {
    constexpr int width = 160, height = 120, frames = 1000;
    Random random(1);
    cv::Mat frame(height, width, CV_32FC1);
    for (float& v : cv::Mat_<float>(frame))
        v = static_cast<float>(random.normal());
    QElapsedTimer clock;
    clock.start();
    cv::Mat sum = cv::Mat::zeros(height, width, CV_64FC1);
    for (int i = 0; i < frames; ++i)
        cv::add(sum, frame, sum, cv::noArray(), CV_64F);
    const double reference = static_cast<double>(clock.nsecsElapsed());
    StepResponse response(width, height);
    clock.restart();
    for (int i = 0; i < frames; ++i)
        response.add(i * 0.04, i % 50 < 25 ? 0.0 : 1.0, frame);
    const double update = static_cast<double>(clock.nsecsElapsed());
    clock.restart();
    constexpr int maps = 20;
    double touched = 0;
    for (int i = 0; i < maps; ++i) {
        response.add(frames * 0.04 + i * 0.04, 0, frame); // forces a fresh solution
        touched += response.at(0.6).sigma_k_per_w;
    }
    const double solution = static_cast<double>(clock.nsecsElapsed()) / maps;
    std::printf("Response model, 160x120: one update costs %.1f times adding the frame to a sum (%.2f of a "
                "frame's time at 25 Hz); a map costs %.1f updates\n",
                update / reference, update / frames / 40e6, solution / (update / frames));
    if (touched < 0) std::printf("\n"); // the work above is kept by its use here
}

} // namespace ustor
