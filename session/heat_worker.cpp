#include "session/heat_worker.h"

#include "thermal/power.h"

#include <opencv2/imgproc.hpp>

namespace ustor {

HeatWorker::HeatWorker(const RecordingInfo& info, std::optional<Registration> registration,
                       double boardThickness_mm)
    : m_info(info), m_registration(std::move(registration)), m_thickness_mm(boardThickness_mm),
      m_response(info.width, info.height) {
    // Frames are small: sharing one out among threads costs more than it saves, and takes cores from the
    // window.
    cv::setNumThreads(1);
}

Outcome HeatWorker::record(const std::filesystem::path& folder) {
    auto writer = RecordingWriter::create(folder, m_info);
    if (!writer) return writer.error();
    m_writer = std::move(writer.value());
    return Done{};
}

void HeatWorker::add(const SupplySample& sample) {
    m_supply.push_back(sample);
    if (!m_writer) return;
    if (const auto written = m_writer->add(sample); !written) {
        m_writeError = written.error();
        m_writer.reset();
    }
}

std::optional<double> HeatWorker::add(const ThermalFrame& frame) {
    if (m_writer)
        if (const auto written = m_writer->add(frame); !written) {
            // The search goes on without the file: what was written is kept.
            m_writeError = written.error();
            m_writer.reset();
        }
    m_waiting.push_back(frame);
    return workOff(false);
}

std::optional<double> HeatWorker::workOff(bool all) {
    std::optional<double> warmest;
    while (!m_waiting.empty() &&
           (all || (!m_supply.empty() && m_supply.back().time_s >= m_waiting.front().time_s))) {
        const ThermalFrame frame = std::move(m_waiting.front());
        m_waiting.pop_front();
        if (m_response.frames() > 0 && frame.time_s <= m_last_s) continue;
        const auto repaired = m_repair.take(frame);
        if (!repaired.usable) continue;
        if (m_response.frames() == 0) m_first_s = frame.time_s;
        m_last_s = frame.time_s;
        m_response.add(frame.time_s, deliveredPower_w(m_supply, frame.time_s), repaired.kelvin);
        cv::Mat smooth;
        cv::GaussianBlur(repaired.kelvin, smooth, {}, 1.5);
        double most = 0;
        cv::minMaxLoc(smooth, nullptr, &most);
        m_warmest_k = most;
        warmest = most;
    }
    return warmest;
}

void HeatWorker::finish() {
    workOff(true);
    m_writer.reset();
}

double HeatWorker::meanWatts() const {
    return meanOnPower_w(m_supply);
}

HeatSoFar HeatWorker::soFar() const {
    return {m_response,           meanWatts(), m_registration,   m_thickness_mm,
            m_last_s - m_first_s, m_warmest_k, m_repair.notes(), m_repair.doubts()};
}

LiveHeat HeatSoFar::look() const {
    LiveHeat live;
    live.frames = response.frames();
    live.seconds = seconds;
    live.warmest_k = warmest_k;
    if (!response.ready()) return live;
    live.located = locateSources(response, meanWatts, registration ? &*registration : nullptr, thickness_mm);
    live.located.repairs = repairs;
    live.located.undone = undone;
    constexpr double instant_s = 0.6;
    const auto maps = response.at(live.located.shownAt_s > 0 ? live.located.shownAt_s : instant_s);
    live.rise_k_per_w = maps.rise_k_per_w;
    live.sigma_k_per_w = maps.sigma_k_per_w;
    return live;
}

} // namespace ustor
