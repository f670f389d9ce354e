#include "base/random.h"
#include "benchmarks.h"
#include "thermal/locate.h"
#include "thermal/repair.h"
#include "thermal/step_response.h"

#include <QElapsedTimer>
#include <cstdio>
#include <vector>

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

/// A stream of 640 x 512 at 60 Hz: what each part costs of one core, and the correlation alone against a
/// plain copy of the same frames.
void benchLargeStream() {
    constexpr int width = 640, height = 512, different = 16, frames = 640, looks = 3;
    constexpr double rate_hz = 60;
    Random random(2);
    std::vector<ThermalFrame> stream;
    for (int i = 0; i < different; ++i) {
        cv::Mat raw(height, width, CV_16UC1);
        for (int y = 0; y < height; ++y)
            for (int x = 0; x < width; ++x)
                raw.at<std::uint16_t>(y, x) =
                    static_cast<std::uint16_t>(29800 + 100 * ((x / 40 + y / 40) % 2) + 5 * random.normal());
        stream.push_back({0, raw});
    }
    const auto seconds = [](const auto& work) {
        QElapsedTimer clock;
        clock.start();
        work();
        return static_cast<double>(clock.nsecsElapsed()) * 1e-9;
    };
    StreamRepair repair;
    std::vector<cv::Mat> rises;
    const double repairing = seconds([&] {
        for (int i = 0; i < frames; ++i) {
            auto out =
                repair.take({i / rate_hz, stream[static_cast<std::size_t>(i % different)].centikelvin});
            if (i < different) rises.push_back(out.kelvin);
        }
    });
    std::vector<cv::Mat> copies(different);
    for (cv::Mat& copy : copies)
        copy.create(height, width, CV_32FC1);
    const auto copyAll = [&] {
        for (int i = 0; i < frames; ++i)
            rises[static_cast<std::size_t>(i % different)].copyTo(
                copies[static_cast<std::size_t>(i % different)]);
    };
    copyAll(); // the first touches fresh pages
    const double copying = seconds(copyAll);
    StepResponse response(width, height);
    const double correlating = seconds([&] {
        for (int i = 0; i < frames; ++i)
            response.add(i / rate_hz, i / 60 % 2 ? 0.01 : 0.0,
                         rises[static_cast<std::size_t>(i % different)]);
    });
    double looking = 0;
    for (int i = 0; i < looks; ++i) {
        response.add((frames + i) / rate_hz, 0, rises.front());
        looking += seconds([&] { (void)locateSources(response, 0.005, nullptr); }) / looks;
    }
    const double ofCore = rate_hz / frames;
    std::printf("Stream of 640x512 at 60 Hz, shares of one core: repair %.0f %%, correlation %.0f %%; a look "
                "takes %.2f s, and "
                "no more than a third of the time is spent looking\n"
                "  correlation alone runs at 1/%.1f of the memory bandwidth of a plain copy of the frames\n",
                100 * repairing * ofCore, 100 * correlating * ofCore, looking, correlating / copying);
}

} // namespace ustor
