#include "enlarged_camera.h"

#include "thermal/recording.h"

#include "base/random.h"
#include "processor_time.h"

#include <QElapsedTimer>
#include <QTimer>
#include <opencv2/imgproc.hpp>
#include <vector>

namespace ustor {
namespace {

constexpr double netd_mk = 60;

std::vector<cv::Mat> noises() {
    constexpr int different = 16;
    Random random(9);
    std::vector<cv::Mat> all;
    for (int i = 0; i < different; ++i) {
        cv::Mat noise(EnlargedCamera::height, EnlargedCamera::width, CV_16SC1);
        for (auto& pixel : cv::Mat_<std::int16_t>(noise))
            pixel = static_cast<std::int16_t>(std::lround(netd_mk / 10 * random.normal()));
        all.push_back(noise);
    }
    return all;
}

} // namespace

EnlargedCamera::EnlargedCamera(SocketAddress small) : m_small(std::move(small)) {}

EnlargedCamera::~EnlargedCamera() {
    quit();
    wait();
}

quint16 EnlargedCamera::port() {
    std::unique_lock lock(m_mutex);
    m_listening.wait(lock, [this] { return m_port >= 0; });
    return static_cast<quint16>(m_port);
}

void EnlargedCamera::run() {
    StreamCamera small(m_small);
    standin::CameraServer server({width, height, rate_hz, netd_mk, 24}, nullptr);
    {
        const bool listens = server.listen();
        const std::lock_guard lock(m_mutex);
        m_port = listens ? server.port() : 0;
    }
    m_listening.notify_all();
    const auto noise = noises();
    cv::Mat large;
    QObject::connect(&small, &Camera::frame, &server, [&](const CameraFrame& frame, double) {
        cv::Mat wide;
        cv::resize(thermalFrame(frame).centikelvin, wide, {}, times, times, cv::INTER_NEAREST);
        cv::copyMakeBorder(wide, large, 0, height - wide.rows, 0, width - wide.cols, cv::BORDER_REPLICATE);
    });
    QElapsedTimer clock;
    QTimer tick;
    tick.setTimerType(Qt::PreciseTimer);
    QObject::connect(&tick, &QTimer::timeout, &server, [&] {
        // One more than a turn too late is made up for, as a camera has its own clock.
        const double now_s = static_cast<double>(clock.nsecsElapsed()) * 1e-9;
        for (; !large.empty() && m_sent < now_s * rate_hz; ++m_sent) {
            cv::Mat picture;
            cv::add(large, noise[static_cast<std::size_t>(m_sent) % noise.size()], picture, cv::noArray(),
                    CV_16U);
            server.send(picture, m_sent / rate_hz);
        }
        m_worked_s = processorTime_s(CLOCK_THREAD_CPUTIME_ID);
    });
    small.start();
    clock.start();
    tick.start(4);
    exec();
}

} // namespace ustor
