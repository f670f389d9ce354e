#include "thermal/repair.h"

#include "base/check.h"
#include "base/median.h"

#include <algorithm>
#include <cmath>

namespace ustor {
namespace {

/// The median of a difference over some pixels: every seventh, and of large pictures as many as tell it to a
/// thousandth of the noise.
float sampledMedian(const cv::Mat& a, const cv::Mat& b) {
    constexpr std::size_t enough = 20000;
    const std::size_t apart =
        std::max<std::size_t>(7, a.total() / enough | 1); // odd: all columns come in turn
    std::vector<float> sample;
    sample.reserve(a.total() / apart + 1);
    const float *one = a.ptr<float>(), *other = b.ptr<float>();
    for (std::size_t i = 0; i < a.total(); i += apart)
        sample.push_back(one[i] - other[i]);
    return medianIn(sample);
}

Message pixels(double count) {
    const auto tenths = std::lround(10 * count);
    return say("{count} pixels",
               {{"count", std::to_string(tenths / 10) + "." + std::to_string(tenths % 10)}});
}

} // namespace

StreamRepair::Output StreamRepair::take(const ThermalFrame& frame) {
    if (!admits(frame)) return {};
    return counted(finished(placed(prepared(frame))));
}

bool StreamRepair::admits(const ThermalFrame& frame) {
    const cv::Mat& raw = frame.centikelvin;
    USTOR_CHECK(raw.type() == CV_16UC1 && raw.isContinuous(), "frames are continuous 16-bit grey pictures");
    if (m_previous.empty()) {
        m_previous = raw.clone();
        return true;
    }
    USTOR_CHECK(raw.size() == m_previous.size(), "a stream keeps its size");
    ++m_frames;
    if (std::equal(raw.begin<std::uint16_t>(), raw.end<std::uint16_t>(), m_previous.begin<std::uint16_t>())) {
        ++m_frozen;
        return !does(Repair::Frozen);
    }
    raw.copyTo(m_previous);
    return true;
}

StreamRepair::Prepared StreamRepair::prepared(const ThermalFrame& frame) {
    cv::Mat kelvin = kelvinOf(frame.centikelvin);
    cv::Mat smoothed = MotionTracker::smoothed(kelvin);
    return {std::move(kelvin), std::move(smoothed)};
}

StreamRepair::Placed StreamRepair::placed(Prepared frame) {
    if (m_first.empty()) {
        m_first = std::move(frame.kelvin);
        m_tracker.emplace(m_first);
        return {m_first, std::nullopt};
    }
    const auto shift = shiftOf(frame.smoothed);
    return {std::move(frame.kelvin), shift};
}

/// How far the frame has to be moved back, if at all.
std::optional<PixelPoint> StreamRepair::shiftOf(const cv::Mat& smoothed) {
    if (!m_tracker->canTell()) return std::nullopt;
    const PixelPoint shift = m_tracker->track(smoothed);
    const double far_px = std::hypot(shift.x_px, shift.y_px);
    m_sigmas_px += m_tracker->sigma_px();
    ++m_followed;
    constexpr double unsure_px = 0.5;
    if (m_tracker->sigma_px() > unsure_px) ++m_unsure;
    // Below this it is noise, and moving back would only smear; once it moves, all frames are alike.
    constexpr double still_px = 0.08;
    m_moves = m_moves || far_px > std::max(still_px, 5 * m_tracker->sigma_px());
    if (!m_moves) return std::nullopt;
    m_moved_px = std::max(m_moved_px, far_px);
    return does(Repair::Motion) ? std::optional(shift) : std::nullopt;
}

double StreamRepair::firstFrame_px() const {
    if (!m_moves || !does(Repair::Motion)) return 0;
    // A shift has the noise of two frames; that of the first is the same in all. What warms up and what
    // passes pulls all of them alike, which the fit's own residual does not know: a tenth of a pixel, as
    // measured on generated scenes.
    constexpr double pulled_px = 0.1;
    return std::hypot(pulled_px, m_sigmas_px / m_followed / std::sqrt(2.0));
}

StreamRepair::Output StreamRepair::finished(const Placed& frame) const {
    const cv::Mat kelvin = frame.shift ? movedBack(frame.kelvin, *frame.shift) : frame.kelvin;
    Output out{true, {}, sampledMedian(kelvin, m_first)};
    cv::subtract(kelvin, m_first, out.kelvin);
    if (does(Repair::Common)) cv::subtract(out.kelvin, out.common_k, out.kelvin);
    return out;
}

StreamRepair::Output StreamRepair::counted(Output frame) {
    // A step of the whole picture between two frames is the shutter's correction, not physics.
    constexpr double jump_k = 0.08;
    if (std::fabs(frame.common_k - m_lastCommon_k) > jump_k) ++m_jumps;
    m_lastCommon_k = frame.common_k;
    return frame;
}

std::vector<RepairNote> StreamRepair::notes() const {
    std::vector<RepairNote> notes;
    if (m_frozen && does(Repair::Frozen))
        notes.push_back({Repair::Frozen, say("frozen frames left out: {frozen}", {{"frozen", m_frozen}})});
    if (m_jumps && does(Repair::Common))
        notes.push_back(
            {Repair::Common, say("jumps of the whole picture taken out: {jumps}", {{"jumps", m_jumps}})});
    if (m_moves && does(Repair::Motion))
        notes.push_back({Repair::Motion, say("the camera moved by up to {moved}: moved back",
                                             {{"moved", pixels(m_moved_px)}})});
    return notes;
}

std::vector<Message> StreamRepair::doubts() const {
    std::vector<Message> doubts;
    if (m_tracker && !m_tracker->canTell())
        doubts.push_back(
            say("the picture has no edges to hold on to: a camera that moves would not be noticed"));
    if (m_unsure > 0)
        doubts.push_back(say("in {unsure} of {frames} frames it is not clear how far the camera moved",
                             {{"unsure", m_unsure}, {"frames", m_frames}}));
    if (m_moves && !does(Repair::Motion))
        doubts.push_back(say("the camera moved by up to {moved}: not moved back, as asked",
                             {{"moved", pixels(m_moved_px)}}));
    if (m_jumps && !does(Repair::Common))
        doubts.push_back(
            say("{jumps} jumps of the whole picture: not taken out, as asked", {{"jumps", m_jumps}}));
    if (m_frozen && !does(Repair::Frozen))
        doubts.push_back(say("{frozen} frozen frames: not left out, as asked", {{"frozen", m_frozen}}));
    return doubts;
}

} // namespace ustor
