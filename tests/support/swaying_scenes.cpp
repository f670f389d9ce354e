#include "support/swaying_scenes.h"

#include "base/random.h"
#include "support/spectral_plate.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <opencv2/imgproc.hpp>

namespace ustor::testing {
namespace {

double logUniform(Random& random, double low, double high) {
    return low * std::pow(high / low, random.uniform());
}

cv::Rect partAt(Random& random, cv::Size size, double mmPerPixel) {
    const int width = std::max(1, static_cast<int>(logUniform(random, 0.6, 6) / mmPerPixel)),
              height = std::max(1, static_cast<int>(logUniform(random, 0.4, 5) / mmPerPixel));
    return cv::Rect(static_cast<int>(random.uniform(0, size.width)) - width / 2,
                    static_cast<int>(random.uniform(0, size.height)) - height / 2, width, height) &
           cv::Rect({}, size);
}

/// Mask, parts with tinned ends, and cans.
cv::Mat emissivities(Random& random, cv::Size size, double mmPerPixel) {
    constexpr int parts = 70;
    constexpr double cans = 0.1, tinned = 0.4;
    const auto metal = [&] { return random.uniform(0.1, 0.3); };
    cv::Mat picture(size, CV_32FC1, cv::Scalar(random.uniform(0.88, 0.95)));
    for (int i = 0; i < parts; ++i) {
        const cv::Rect part = partAt(random, size, mmPerPixel);
        if (part.empty()) continue;
        const double kind = random.uniform();
        picture(part) = kind < cans ? metal() : random.uniform(0.85, 0.95);
        if (kind < cans || kind > cans + tinned) continue;
        const int end = std::max(1, part.width / 5);
        picture(cv::Rect(part.x, part.y, end, part.height)) = metal();
        picture(cv::Rect(part.br().x - end, part.y, end, part.height)) = metal();
    }
    return picture;
}

struct Person {
    double x_px, y_px, dx_px_s, dy_px_s, width_px, warm_k, rate_hz, phase;
    static Person any(Random& random, cv::Size size) {
        return {random.uniform(0, size.width),          random.uniform(0, size.height),
                0.02 * size.width * random.normal(),    0.02 * size.height * random.normal(),
                random.uniform(0.15, 0.6) * size.width, random.uniform(1, 4),
                logUniform(random, 0.03, 0.6),          random.uniform(0, 2 * std::numbers::pi)};
    }
    void addTo(cv::Mat& picture, double time_s) const {
        const double x = x_px + dx_px_s * time_s, y = y_px + dy_px_s * time_s,
                     twice = 2 * width_px * width_px;
        const double now_k = warm_k * (0.6 + 0.4 * std::sin(2 * std::numbers::pi * rate_hz * time_s + phase));
        for (int row = 0; row < picture.rows; ++row) {
            const double along = now_k * std::exp(-(row - y) * (row - y) / twice);
            for (int column = 0; column < picture.cols; ++column)
                picture.at<float>(row, column) +=
                    static_cast<float>(along * std::exp(-(column - x) * (column - x) / twice));
        }
    }
};

/// On, off, on, ...
std::vector<double> switchings(Random& random, double seconds) {
    std::vector<double> times;
    const double on_s = logUniform(random, 0.6, 3), off_s = logUniform(random, 0.6, 3);
    for (double t = random.uniform(0.3, 2); t < seconds; t += times.size() % 2 ? on_s : off_s)
        times.push_back(t);
    return times;
}

bool isOn(const std::vector<double>& times_s, double time_s) {
    return (std::upper_bound(times_s.begin(), times_s.end(), time_s) - times_s.begin()) % 2 == 1;
}

std::vector<SupplySample> toldBySupply(Random& random, const std::vector<double>& times_s, double watts,
                                       double seconds) {
    std::vector<SupplySample> supply;
    const double offset_s = random.uniform(-0.1, 0.1), amps = std::sqrt(watts / 0.1), volts = watts / amps;
    for (double t = -0.3; t < seconds + 0.3; t += random.uniform(0.025, 0.06)) {
        const bool on = isOn(times_s, t);
        supply.push_back({t + offset_s, on, volts, amps, on ? volts : 0, on ? amps : 0});
    }
    return supply;
}

} // namespace

Scene makeSwayingScene(SceneKind kind, std::uint64_t seed) {
    Random random(seed);
    constexpr int margin_px = 14, hz = 25;
    constexpr double seconds = 25;
    const cv::Size size(160, 120);
    Scene scene;
    scene.mmPerPixel = logUniform(random, 0.28, 0.7);
    Recording& recording = scene.recording;
    recording.info.width = size.width;
    recording.info.height = size.height;
    recording.info.frameRate_hz = hz;

    const bool far = kind == SceneKind::Far, wide = kind == SceneKind::Wide,
               heats = kind != SceneKind::Nothing;
    SpectralPlate::Board board;
    board.conductivity_w_mk = logUniform(random, 8, 40);
    board.thickness_m = random.uniform(0.8e-3, 1.6e-3);
    SpectralPlate plate(size, scene.mmPerPixel, board);
    cv::Mat emissivity = emissivities(random, size, scene.mmPerPixel), body = cv::Mat::zeros(size, CV_32FC1);
    const PixelPoint at{random.uniform(margin_px, size.width - margin_px),
                        random.uniform(margin_px, size.height - margin_px)};
    const double side_px = logUniform(random, 0.6, 2) / scene.mmPerPixel;
    scene.fault_w = far ? logUniform(random, 60e-3, 450e-3) : logUniform(random, 10e-3, 450e-3);
    if (wide) { // an inner layer: both faces are heated alike
        scene.fault_w = logUniform(random, 0.15, 1);
        const double width_px = random.uniform(3, 6) / scene.mmPerPixel;
        plate.addSource(at, width_px, false);
        plate.addSource(at, width_px, true);
    } else if (heats) {
        plate.addSource(at, std::max(0.4, side_px / 3.5), far);
        scene.fault = at;
    }
    if (scene.fault && !far) { // the part's own body, a square with soft edges
        for (int row = 0; row < size.height; ++row)
            for (int column = 0; column < size.width; ++column) {
                const auto inside = [&](double away) {
                    return std::clamp(side_px / 2 + 0.5 - std::fabs(away), 0.0, 1.0);
                };
                body.at<float>(row, column) =
                    static_cast<float>(inside(column - at.x_px) * inside(row - at.y_px));
            }
        emissivity.setTo(0.9, body > 0);
    }
    const double bodyLag_s = logUniform(random, 0.05, 0.5), bodyToBoard_w_k = logUniform(random, 0.01, 0.04);

    const auto times_s = switchings(random, seconds);
    if (kind != SceneKind::Manual) recording.supply = toldBySupply(random, times_s, scene.fault_w, seconds);
    std::vector<Person> people;
    for (int i = 0; i < 2; ++i)
        people.push_back(Person::any(random, size));

    const double noise_k = random.uniform(0.04, 0.1), blur_px = random.uniform(0.5, 0.9);
    cv::Mat pattern(size, CV_32FC1);
    for (int i = 0; i < static_cast<int>(pattern.total()); ++i)
        pattern.ptr<float>()[i] = static_cast<float>(0.03 * random.normal());
    double through_w = 0, last_s = 0;
    for (int i = 0; i < static_cast<int>(seconds * hz); ++i) {
        const double now_s = (i + (i ? 0.05 * random.normal() : 0)) / hz;
        constexpr int parts = 3;
        for (int part = 0; part < parts && now_s > last_s; ++part) {
            const double step_s = (now_s - last_s) / parts;
            const double watts = isOn(times_s, last_s + (part + 0.5) * step_s) ? scene.fault_w : 0;
            through_w += (watts - through_w) * (1 - std::exp(-step_s / bodyLag_s));
            if (wide)
                plate.step(step_s, {watts / 2, watts / 2}); // no body between
            else if (heats)
                plate.step(step_s, {through_w});
        }
        last_s = std::max(last_s, now_s);
        cv::Mat picture = plate.rise_k() + body * (through_w / bodyToBoard_w_k), reflected = body * 0;
        for (const Person& person : people)
            person.addTo(reflected, now_s);
        picture = picture.mul(emissivity) + reflected.mul(1 - emissivity);
        cv::GaussianBlur(picture, picture, {}, blur_px);
        picture += pattern;
        cv::Mat raw(size, CV_16UC1);
        for (int k = 0; k < static_cast<int>(raw.total()); ++k)
            raw.ptr<std::uint16_t>()[k] = cv::saturate_cast<std::uint16_t>(
                100 * (298.15 + static_cast<double>(picture.ptr<float>()[k]) + noise_k * random.normal()));
        recording.frames.push_back({now_s, raw});
    }
    return scene;
}

} // namespace ustor::testing
