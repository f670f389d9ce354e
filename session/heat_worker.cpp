#include "session/heat_worker.h"

#include "base/units.h"

#include "thermal/emissivity.h"
#include "thermal/passing.h"
#include "thermal/power.h"
#include "thermal/recording_reader.h"

#include <algorithm>
#include <opencv2/imgproc.hpp>

namespace ustor {
namespace {

/// From a beat to the switch (common practice).
constexpr double handDelay_s = 0.3;

/// Over the size of a part, so that no noisy pixel passes for heat; pairs are joined first, for it is asked
/// of each frame.
double warmestOf(const cv::Mat& picture) {
    constexpr double deviation_px = 0.55; // of pairs: 1.2 pixels in all, so that a small part is not missed
    cv::Mat pairs;
    cv::resize(picture, pairs, {(picture.cols + 1) / 2, (picture.rows + 1) / 2}, 0, 0, cv::INTER_AREA);
    cv::GaussianBlur(pairs, pairs, {}, deviation_px);
    double most = 0;
    cv::minMaxLoc(pairs, nullptr, &most);
    return most;
}

/// Hotter than its surface looks: what shines less than a black body shows part of the room instead. Small
/// bright cans show the room and are not heard.
double hottestSurface_c(const cv::Mat& centikelvin, double room_c) {
    constexpr double warm_c = 45; // cooler than that it is far from any limit
    const double apparent_k = 0.01 * warmestOf(centikelvin);
    if (apparent_k < warm_c + celsiusZero_k) return apparent_k - celsiusZero_k;
    return surfaceKelvin(apparent_k, emissivityOf(Surface::Mask), room_c + celsiusZero_k)
               .value_or(apparent_k) -
           celsiusZero_k;
}

void addMap(LiveHeat& live, const StepResponse& response) {
    constexpr double instant_s = 0.6;
    const auto maps = response.at(live.located.shownAt_s > 0 ? live.located.shownAt_s : instant_s);
    live.rise_k_per_w = maps.rise_k_per_w;
    live.sigma_k_per_w = maps.sigma_k_per_w;
}

} // namespace

HeatWorker::HeatWorker(const CameraInfo& info, std::optional<Registration> registration,
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

/// The search goes on without the file: what was written is kept.
template <typename T> void HeatWorker::write(const T& what) {
    if (!m_writer) return;
    if (const auto written = m_writer->add(what); !written) {
        m_writeError = written.error();
        m_writer.reset();
    }
}

void HeatWorker::add(const SupplySample& sample) {
    m_supply.push_back(sample);
    write(sample);
}

void HeatWorker::add(const Beat& beat) {
    m_beats.push_back(beat);
    write(beat);
    constexpr double edge_s = 1e-3;
    const double at_s = beat.time_s + handDelay_s, before = beat.on ? 0 : 1;
    m_supply.push_back({at_s - edge_s, !beat.on, 1, 1, before, before});
    m_supply.push_back({at_s, beat.on, 1, 1, 1 - before, 1 - before});
}

std::optional<Warmest> HeatWorker::add(const ThermalFrame& frame) {
    write(frame);
    m_waiting.push_back(frame);
    return workOff(false);
}

std::optional<Warmest> HeatWorker::workOff(bool all) {
    std::optional<Warmest> warmest;
    const bool byBeats = !m_beats.empty();
    const auto known = [&](double time_s) {
        return all || byBeats || (!m_supply.empty() && m_supply.back().time_s >= time_s);
    };
    while (!m_waiting.empty() && known(m_waiting.front().time_s)) {
        const ThermalFrame frame = std::move(m_waiting.front());
        m_waiting.pop_front();
        if (m_response.frames() > 0 && frame.time_s <= m_last_s) continue;
        const auto repaired = m_repair.take(frame);
        if (!repaired.usable) continue;
        if (m_response.frames() == 0) m_first_s = frame.time_s;
        m_last_s = frame.time_s;
        const bool holds = byBeats && frame.time_s > m_supply.back().time_s;
        m_response.add(frame.time_s,
                       holds ? m_supply.back().watts() : deliveredPower_w(m_supply, frame.time_s),
                       repaired.kelvin);
        keep(frame.time_s, repaired.kelvin);
        m_warmest_k = warmestOf(repaired.kelvin);
        warmest = Warmest{m_warmest_k, hottestSurface_c(frame.centikelvin, m_info.ambient_c)};
    }
    return warmest;
}

void HeatWorker::keep(double time_s, const cv::Mat& kelvin) {
    if (!m_keeps) return;
    m_frames.times_s.push_back(time_s);
    m_frames.rises_k.push_back(kelvin);
    m_frames.means_k.push_back(blockMeans(kelvin));
    m_keeps = m_frames.rises_k.pixels() < roomToLocate.mostPixels;
    if (!m_keeps) m_frames = {};
}

void HeatWorker::finish() {
    workOff(true);
    m_writer.reset();
}

double HeatWorker::meanWatts() const {
    return m_beats.empty() ? meanOnPower_w(m_supply) : 0;
}

HeatSoFar HeatWorker::soFar() const {
    HeatSoFar all{m_response,
                  m_frames,
                  {m_beats.empty() ? m_supply : std::vector<SupplySample>(), m_beats},
                  m_supply,
                  m_registration,
                  m_thickness_mm,
                  m_last_s - m_first_s,
                  m_warmest_k};
    all.frames.firstFrame_px = m_repair.firstFrame_px();
    all.frames.done = m_repair.notes();
    all.frames.undone = m_repair.doubts();
    if (!m_keeps)
        all.frames.undone.emplace_back(
            say("the recording is too large to be gone over as a whole: hands and the "
                "clocks' offset count as they are"));
    return all;
}

LiveHeat HeatSoFar::look() const {
    LiveHeat live;
    live.frames = response.frames();
    live.seconds = seconds;
    live.warmest_k = warmest_k;
    if (!response.ready()) return live;
    RepairedFrames left = frames;
    if (!left.rises_k.empty()) leaveOutPassing(left, supply);
    const bool passed = std::any_of(left.covered.begin(), left.covered.end(),
                                    [](const cv::Mat& blocks) { return !blocks.empty(); });
    const StepResponse without = passed ? responseOf(left, supply) : response;
    if (!without.ready()) return live;
    live.located = locateSources(without, meanOnPower_w(supply), registration ? &*registration : nullptr,
                                 thickness_mm, {}, left.firstFrame_px);
    live.located.switchedFromFrames = !told.beats.empty();
    live.located.repairs = left.done;
    live.located.undone = left.undone;
    addMap(live, without);
    return live;
}

LiveHeat HeatSoFar::lookWhole() const {
    auto whole = lookAt(frames, told, registration ? &*registration : nullptr, thickness_mm);
    if (!whole || !whole.value().response.ready()) return look();
    LiveHeat live;
    live.frames = response.frames();
    live.seconds = seconds;
    live.warmest_k = warmest_k;
    live.located = std::move(whole.value().located);
    addMap(live, whole.value().response);
    return live;
}

} // namespace ustor
