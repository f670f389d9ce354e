#include "thermal/motion.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

namespace ustor {
namespace {

/// Noise must not pass for gradient, nor be smoothed so far that edges are lost.
constexpr double smooth_px = 1.2;

double medianOf(std::vector<double> values) {
    const auto middle = values.begin() + static_cast<long>(values.size() / 2);
    std::nth_element(values.begin(), middle, values.end());
    return *middle;
}

cv::Mat smoothed(const cv::Mat& frame) {
    cv::Mat calm, out;
    cv::medianBlur(frame, calm, 3); // dead pixels have the steepest gradients of all
    cv::GaussianBlur(calm, out, {}, smooth_px, smooth_px, cv::BORDER_REPLICATE);
    return out;
}

} // namespace

MotionTracker::MotionTracker(const cv::Mat& first) {
    const cv::Mat reference = smoothed(first);
    // Shared out over the picture: a hand over the one part with edges must not be the majority.
    constexpr int border = 8, tiles = 8;
    constexpr std::size_t mostOfTile = 60;
    const int width = reference.cols - 2 * border, height = reference.rows - 2 * border;
    const auto steeper = [](const Point& a, const Point& b) {
        return a.gx * a.gx + a.gy * a.gy > b.gx * b.gx + b.gy * b.gy;
    };
    std::vector<Point> tile;
    for (int t = 0; t < tiles * tiles && width > 0 && height > 0; ++t) {
        tile.clear();
        const int row = t / tiles, column = t % tiles;
        for (int y = border + row * height / tiles; y < border + (row + 1) * height / tiles; ++y)
            for (int x = border + column * width / tiles; x < border + (column + 1) * width / tiles; ++x) {
                const float gx = (reference.at<float>(y, x + 1) - reference.at<float>(y, x - 1)) / 2,
                            gy = (reference.at<float>(y + 1, x) - reference.at<float>(y - 1, x)) / 2;
                tile.push_back({x, y, reference.at<float>(y, x), gx, gy});
            }
        if (tile.size() > mostOfTile) {
            std::nth_element(tile.begin(), tile.begin() + mostOfTile, tile.end(), steeper);
            tile.resize(mostOfTile);
        }
        m_points.insert(m_points.end(), tile.begin(), tile.end());
    }
}

/// Gradients of the reference that its own noise makes would follow that noise.
void MotionTracker::keepWhatIsNoNoise(double noise_k) {
    m_pruned = true;
    // Half the difference of neighbours two pixels apart, whose noise the smoothing has joined.
    const double joined = std::exp(-1 / (smooth_px * smooth_px));
    const double gradient = noise_k * std::sqrt((1 - joined) / 2);
    constexpr double above = 5;
    std::erase_if(m_points, [&](const Point& p) { return std::hypot(p.gx, p.gy) < above * gradient; });
    constexpr std::size_t fewest = 60;
    if (m_points.size() < fewest) m_points.clear();
}

MotionTracker::Look MotionTracker::lookAt(const cv::Mat& frame, PixelPoint shift) const {
    Look look;
    look.left.reserve(m_points.size());
    for (const Point& p : m_points) {
        // Bilinear samples of the frame where each point should be.
        const double x = std::clamp(p.x + shift.x_px, 0.0, frame.cols - 1.001),
                     y = std::clamp(p.y + shift.y_px, 0.0, frame.rows - 1.001);
        const int ix = static_cast<int>(x), iy = static_cast<int>(y);
        const double u = x - ix, v = y - iy;
        const float *above = frame.ptr<float>(iy) + ix, *below = frame.ptr<float>(iy + 1) + ix;
        look.left.push_back((1 - v) * ((1 - u) * above[0] + u * above[1]) +
                            v * ((1 - u) * below[0] + u * below[1]) - p.value);
    }
    look.common = medianOf(look.left);
    std::vector<double> sizes;
    sizes.reserve(look.left.size());
    for (const double l : look.left)
        sizes.push_back(std::fabs(l - look.common));
    look.spread = std::max(1.4826 * medianOf(std::move(sizes)), 1e-6);
    return look;
}

PixelPoint MotionTracker::track(const cv::Mat& frame) {
    if (m_points.empty()) return {};
    const cv::Mat now = smoothed(frame);
    Look look = lookAt(now, m_last);
    if (!m_pruned) {
        keepWhatIsNoNoise(look.spread / std::sqrt(2.0));
        if (m_points.empty()) return {};
        look = lookAt(now, m_last);
    }
    // Smoothing joins the noise of neighbours: the points are fewer than they look.
    constexpr double joined = 4 * 3.14159265358979 * smooth_px * smooth_px, huber = 1.5, foreign = 4;
    const double spread = look.spread;
    const auto misfit = [&](const Look& at) {
        double sum = 0;
        for (const double l : at.left) {
            // What does not belong to the scene, as a hand, has one vote a point however warm it is.
            const double off = std::min(std::fabs(l - at.common) / spread, foreign);
            sum += off <= huber ? off * off : huber * (2 * off - huber);
        }
        return sum / joined;
    };
    PixelPoint shift = m_last;
    Look best = look;
    bool settled = false;
    constexpr int steps = 8;
    constexpr double settled_px = 0.003, farthest_px = 24, longest_px = 0.7;
    for (int step = 0; step < steps && !settled; ++step) {
        Eigen::Matrix3d normal = Eigen::Matrix3d::Zero();
        Eigen::Vector3d right = Eigen::Vector3d::Zero();
        double squares = 0, weights = 0;
        for (std::size_t i = 0; i < m_points.size(); ++i) {
            const double off = std::fabs(best.left[i] - best.common), limit = huber * best.spread;
            if (off > foreign * best.spread) continue;
            const double weight = off <= limit ? 1 : limit / off;
            const Eigen::Vector3d d(m_points[i].gx, m_points[i].gy, 1);
            normal += weight * d * d.transpose();
            right -= weight * best.left[i] * d;
            squares += weight * off * off;
            weights += weight;
        }
        normal.diagonal().array() += 1e-9;
        const Eigen::Matrix3d inverse = normal.inverse();
        Eigen::Vector3d by = inverse * right;
        m_sigma_px = std::sqrt(std::max(inverse(0, 0), inverse(1, 1)) * squares / weights * joined);
        settled = std::hypot(by[0], by[1]) < settled_px;
        const double length = std::hypot(by[0], by[1]);
        if (length > longest_px) by *= longest_px / length;
        shift = {std::clamp(shift.x_px + by[0], -farthest_px, farthest_px),
                 std::clamp(shift.y_px + by[1], -farthest_px, farthest_px)};
        best = lookAt(now, shift);
    }
    // Clearly better by chi squared with two degrees of freedom, or it stays.
    constexpr double clearly = 16;
    if (misfit(look) - misfit(best) > clearly) m_last = shift;
    return m_last;
}

cv::Mat movedBack(const cv::Mat& frame, PixelPoint shift) {
    const cv::Mat map = (cv::Mat_<double>(2, 3) << 1, 0, shift.x_px, 0, 1, shift.y_px);
    cv::Mat out;
    cv::warpAffine(frame, out, map, frame.size(), cv::INTER_CUBIC | cv::WARP_INVERSE_MAP,
                   cv::BORDER_REPLICATE);
    return out;
}

} // namespace ustor
