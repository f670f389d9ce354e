#include "session/heat_picture.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

namespace ustor {

QImage heatPicture(const cv::Mat& values, double low, double high, std::optional<double> clearBelow) {
    if (values.empty()) return {};
    cv::Mat grey, colours;
    const double span = std::max(1e-9, high - low);
    values.convertTo(grey, CV_8U, 255 / span, -low * 255 / span);
    cv::applyColorMap(grey, colours, cv::COLORMAP_CIVIDIS);
    QImage image(values.cols, values.rows, QImage::Format_ARGB32);
    for (int y = 0; y < values.rows; ++y) {
        auto* line = reinterpret_cast<QRgb*>(image.scanLine(y));
        for (int x = 0; x < values.cols; ++x) {
            const auto& c = colours.at<cv::Vec3b>(y, x);
            int alpha = std::isfinite(values.at<float>(y, x)) ? 255 : 0;
            if (clearBelow && alpha > 0) {
                const double above = (static_cast<double>(values.at<float>(y, x)) - *clearBelow) / span;
                alpha = static_cast<int>(255 * std::clamp(4 * above, 0.0, 0.85));
            }
            line[x] = qRgba(c[2], c[1], c[0], alpha);
        }
    }
    return image;
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
