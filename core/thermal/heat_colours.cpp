#include "thermal/heat_colours.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

namespace ustor {

cv::Mat heatColours(const cv::Mat& values, double low, double high, std::optional<double> clearBelow) {
    if (values.empty()) return {};
    cv::Mat grey, colours;
    const double span = std::max(1e-9, high - low);
    values.convertTo(grey, CV_8U, 255 / span, -low * 255 / span);
    cv::applyColorMap(grey, colours, cv::COLORMAP_CIVIDIS);
    cv::Mat picture(values.size(), CV_8UC4);
    for (int y = 0; y < values.rows; ++y)
        for (int x = 0; x < values.cols; ++x) {
            const auto& c = colours.at<cv::Vec3b>(y, x);
            const double value = static_cast<double>(values.at<float>(y, x));
            double alpha = std::isfinite(value) ? 255 : 0;
            if (clearBelow && alpha > 0)
                alpha = 255 * std::clamp(4 * (value - *clearBelow) / span, 0.0, 0.85);
            picture.at<cv::Vec4b>(y, x) = {c[0], c[1], c[2], static_cast<uchar>(alpha)};
        }
    return picture;
}

} // namespace ustor
