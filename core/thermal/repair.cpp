#include "thermal/repair.h"

#include "base/check.h"

#include <algorithm>
#include <cmath>

namespace ustor {
namespace {

/// The median over every seventh pixel: enough to be exact to some mK, and coprime to usual widths.
float sampledMedian(const cv::Mat& picture, std::vector<float>& sample) {
    sample.clear();
    const auto* pixels = picture.ptr<float>();
    for (std::size_t i = 0; i < picture.total(); i += 7)
        sample.push_back(pixels[i]);
    const auto middle = sample.begin() + static_cast<long>(sample.size() / 2);
    std::nth_element(sample.begin(), middle, sample.end());
    return *middle;
}

} // namespace

StreamRepair::Output StreamRepair::take(const ThermalFrame& frame) {
    const cv::Mat& raw = frame.centikelvin;
    USTOR_CHECK(raw.type() == CV_16UC1 && raw.isContinuous(), "frames are continuous 16-bit grey pictures");
    if (m_first.empty()) {
        m_first = kelvinOf(raw);
        m_previous = raw.clone();
        m_tracker.emplace(m_first);
        return {true, cv::Mat::zeros(raw.size(), CV_32F)};
    }
    USTOR_CHECK(raw.size() == m_first.size(), "a stream keeps its size");
    if (std::equal(raw.begin<std::uint16_t>(), raw.end<std::uint16_t>(), m_previous.begin<std::uint16_t>())) {
        ++m_frozen;
        return {};
    }
    raw.copyTo(m_previous);
    Output out{true, {}};
    cv::Mat kelvin = kelvinOf(raw);
    if (m_tracker->canTell()) {
        const PixelPoint shift = m_tracker->track(kelvin);
        const double far_px = std::hypot(shift.x_px, shift.y_px);
        // Below this it is noise, and moving back would only smear; once it moves, all frames are alike.
        constexpr double still_px = 0.08;
        m_moves = m_moves || far_px > std::max(still_px, 5 * m_tracker->sigma_px());
        if (m_moves) {
            m_moved_px = std::max(m_moved_px, far_px);
            kelvin = movedBack(kelvin, shift);
        }
    }
    cv::subtract(kelvin, m_first, out.kelvin);
    const float common = sampledMedian(out.kelvin, m_sample);
    // A step of the whole picture between two frames is the shutter's correction, not physics.
    constexpr double jump_k = 0.08;
    if (std::fabs(common - m_lastCommon_k) > jump_k) ++m_jumps;
    m_lastCommon_k = common;
    out.kelvin -= cv::Scalar(common);
    return out;
}

std::vector<std::string> StreamRepair::notes() const {
    std::vector<std::string> notes;
    if (m_frozen) notes.push_back(std::to_string(m_frozen) + " frozen frames left out");
    if (m_jumps) notes.push_back(std::to_string(m_jumps) + " jumps of the whole picture taken out");
    if (m_moves) {
        const auto tenths = std::lround(10 * m_moved_px);
        notes.push_back("the camera moved by up to " + std::to_string(tenths / 10) + "." +
                        std::to_string(tenths % 10) + " pixels: moved back");
    }
    return notes;
}

} // namespace ustor
