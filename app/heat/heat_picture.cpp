#include "app/heat/heat_picture.h"

#include "thermal/heat_colours.h"

#include <algorithm>

namespace ustor {

QImage heatPicture(const cv::Mat& values, double low, double high, std::optional<double> clearBelow) {
    const cv::Mat colours = heatColours(values, low, high, clearBelow);
    // Blue, green, red, alpha in memory: what the toolkit calls ARGB on a little-endian machine.
    return QImage(colours.data, colours.cols, colours.rows, static_cast<qsizetype>(colours.step),
                  QImage::Format_ARGB32)
        .copy();
}

QImage heatRamp(Qt::Orientation orientation) {
    constexpr int steps = 64;
    cv::Mat ramp(1, steps, CV_32F);
    for (int i = 0; i < steps; ++i)
        ramp.at<float>(0, i) = static_cast<float>(orientation == Qt::Horizontal ? i : steps - 1 - i);
    return heatPicture(orientation == Qt::Horizontal ? ramp : ramp.t(), 0, steps - 1);
}

void HeldSpan::show(double low, double high) {
    if (!m_known) {
        m_low = low;
        m_high = high;
        m_known = true;
    }
    m_low = std::min(m_low, low);
    m_high = std::max(m_high, high);
}

} // namespace ustor
