#include "thermal/motion.h"

#include "base/median.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <opencv2/imgproc.hpp>

namespace ustor {
namespace {

/// Noise must not pass for gradient, nor be smoothed so far that edges are lost.
constexpr double smooth_px = 1.2;
constexpr double joinedPoints = 4 * std::numbers::pi * smooth_px * smooth_px;

/// Pixels that are joined, each way: a large picture has points enough without its finest ones.
int joinedIn(const cv::Mat& frame) {
    constexpr std::size_t large = 150000;
    return frame.total() > large ? 2 : 1;
}

} // namespace

cv::Mat MotionTracker::smoothed(const cv::Mat& frame) {
    cv::Mat joined = frame, calm, out;
    if (const int n = joinedIn(frame); n > 1) {
        const cv::Size size(frame.cols / n, frame.rows / n);
        cv::resize(frame(cv::Rect({}, size * n)), joined, size, 0, 0, cv::INTER_AREA);
    }
    cv::medianBlur(joined, calm, 3); // dead pixels have the steepest gradients of all
    cv::GaussianBlur(calm, out, {}, smooth_px, smooth_px, cv::BORDER_REPLICATE);
    return out;
}

MotionTracker::MotionTracker(const cv::Mat& first) : m_joined(joinedIn(first)) {
    const cv::Mat reference = smoothed(first);
    // Shared out over the picture: a hand over the one part with edges must not be the majority.
    constexpr int border = 8, tiles = 8;
    constexpr std::size_t mostOfTile = 48;
    const int width = reference.cols - 2 * border, height = reference.rows - 2 * border;
    const auto steeper = [](const Point& a, const Point& b) {
        return a.gx * a.gx + a.gy * a.gy > b.gx * b.gx + b.gy * b.gy;
    };
    for (int t = 0; t < tiles * tiles && width > 0 && height > 0; ++t) {
        Tile tile;
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
        m_tiles.push_back(std::move(tile));
    }
}

/// Gradients of the reference that its own noise makes would follow that noise.
void MotionTracker::keepWhatIsNoNoise(double noise_k) {
    m_pruned = true;
    // Half the difference of neighbours two pixels apart, whose noise the smoothing has joined.
    const double joined = std::exp(-1 / (smooth_px * smooth_px));
    const double gradient = noise_k * std::sqrt((1 - joined) / 2);
    constexpr double above = 5;
    constexpr std::size_t fewestOfTile = 8, fewest = 60;
    std::size_t points = 0;
    for (Tile& tile : m_tiles)
        std::erase_if(tile, [&](const Point& p) { return std::hypot(p.gx, p.gy) < above * gradient; });
    std::erase_if(m_tiles, [](const Tile& tile) { return tile.size() < fewestOfTile; });
    for (const Tile& tile : m_tiles)
        points += tile.size();
    if (points < fewest) m_tiles.clear();
}

namespace {

constexpr double huber = 1.5, foreign = 4;

/// How much a point counts whose misfit is so many deviations large.
double weightOf(double left, double spread) {
    const double off = std::fabs(left) / spread;
    return off > foreign ? 0 : off <= huber ? 1 : huber / off;
}

} // namespace

/// Level and contrast of a tile at a shift, by reweighted least squares; what they leave is in `left`.
void MotionTracker::matchTile(const Tile& tile, std::vector<double>& left, TileMatch& match) {
    double middle = 0;
    for (const Point& p : tile)
        middle += p.value / static_cast<double>(tile.size());
    const std::vector<double> raw = left;
    const double level = medianOf(raw);
    std::vector<double> sizes(left.size());
    for (double& l : left)
        l -= level;
    constexpr int rounds = 3;
    for (int round = 0; round < rounds; ++round) {
        for (std::size_t i = 0; i < left.size(); ++i)
            sizes[i] = std::fabs(left[i]);
        match.spread = std::max(1.4826 * medianIn(sizes), 1e-6);
        double w = 0, wv = 0, wvv = 0, wl = 0, wvl = 0;
        for (std::size_t i = 0; i < tile.size(); ++i) {
            const double weight = weightOf(left[i], match.spread), v = tile[i].value - middle;
            w += weight;
            wv += weight * v;
            wvv += weight * v * v;
            wl += weight * raw[i];
            wvl += weight * v * raw[i];
        }
        const double spread = w * wvv - wv * wv;
        // A tile whose pixels are all alike has no contrast that could change.
        const TileMatch before = match;
        match.contrast = spread > 1e-12 * w * w ? std::clamp((w * wvl - wv * wl) / spread, -4.0, 3.0) : 0;
        match.level = w > 0 ? (wl - match.contrast * wv) / w : level;
        for (std::size_t i = 0; i < tile.size(); ++i)
            left[i] = raw[i] - match.level - match.contrast * (tile[i].value - middle);
        // What changes by so little changes no weight that matters.
        constexpr double little = 0.03;
        const double reach = w > 0 ? std::sqrt(std::max(0.0, spread)) / w : 0; // deviation of the values
        if (round > 0 &&
            std::fabs(match.level - before.level) + reach * std::fabs(match.contrast - before.contrast) <
                little * match.spread)
            break;
    }
}

MotionTracker::Look MotionTracker::lookAt(const cv::Mat& frame, PixelPoint shift) const {
    Look look;
    look.tiles.resize(m_tiles.size());
    std::vector<double> sizes;
    for (std::size_t t = 0; t < m_tiles.size(); ++t) {
        std::vector<double>& left = look.tiles[t].left;
        for (const Point& p : m_tiles[t]) {
            // Bilinear samples of the frame where each point should be.
            const double x = std::clamp(p.x + shift.x_px, 0.0, frame.cols - 1.001),
                         y = std::clamp(p.y + shift.y_px, 0.0, frame.rows - 1.001);
            const int ix = static_cast<int>(x), iy = static_cast<int>(y);
            const double u = x - ix, v = y - iy;
            const float *above = frame.ptr<float>(iy) + ix, *below = frame.ptr<float>(iy + 1) + ix;
            left.push_back((1 - v) * ((1 - u) * above[0] + u * above[1]) +
                           v * ((1 - u) * below[0] + u * below[1]) - p.value);
        }
        matchTile(m_tiles[t], left, look.tiles[t]);
        for (const double l : left)
            sizes.push_back(std::fabs(l));
    }
    if (!sizes.empty()) look.spread = std::max(1.4826 * medianOf(std::move(sizes)), 1e-6);
    return look;
}

/// One step of Gauss and Newton: level and contrast of each tile are taken out of gradients and misfits
/// alike.
MotionTracker::Step MotionTracker::stepFrom(const Look& look) const {
    Eigen::Matrix2d normal = Eigen::Matrix2d::Zero();
    Eigen::Vector2d right = Eigen::Vector2d::Zero();
    double squares = 0, weights = 0;
    for (std::size_t t = 0; t < m_tiles.size(); ++t) {
        const Tile& tile = m_tiles[t];
        const TileMatch& match = look.tiles[t];
        const double gain = 1 + match.contrast;
        Eigen::Matrix4d all = Eigen::Matrix4d::Zero(); // gx, gy, level, contrast
        Eigen::Vector4d side = Eigen::Vector4d::Zero();
        double middle = 0;
        for (const Point& p : tile)
            middle += p.value / static_cast<double>(tile.size());
        for (std::size_t i = 0; i < tile.size(); ++i) {
            const double weight = weightOf(match.left[i], look.spread);
            if (weight == 0) continue;
            const Eigen::Vector4d d(gain * tile[i].gx, gain * tile[i].gy, 1, tile[i].value - middle);
            all += weight * d * d.transpose();
            side -= weight * match.left[i] * d;
            squares += weight * match.left[i] * match.left[i];
            weights += weight;
        }
        Eigen::Matrix2d own = all.bottomRightCorner<2, 2>();
        own.diagonal().array() += 1e-9 + 1e-6 * own.trace();
        const Eigen::Matrix2d across = all.topRightCorner<2, 2>() * own.inverse();
        normal += all.topLeftCorner<2, 2>() - across * all.bottomLeftCorner<2, 2>();
        right += side.head<2>() - across * side.tail<2>();
    }
    normal.diagonal().array() += 1e-9;
    const Eigen::Matrix2d inverse = normal.inverse();
    const Eigen::Vector2d by = inverse * right;
    // Smoothing joins the noise of neighbours: the points are fewer than they look.
    const double variance = weights > 0 ? squares / weights * joinedPoints : 0;
    return {{by[0], by[1]}, std::sqrt(std::max(inverse(0, 0), inverse(1, 1)) * variance)};
}

/// Sum of a tile's misfits, each bounded: what does not belong to the scene, as a hand, has one vote a point
/// however warm it is.
double MotionTracker::misfit(const TileMatch& tile, double spread) {
    double sum = 0;
    for (const double l : tile.left) {
        const double off = std::min(std::fabs(l) / spread, foreign);
        sum += off <= huber ? off * off : huber * (2 * off - huber);
    }
    return sum / joinedPoints;
}

/// Clearly better by chi squared with two degrees of freedom, and in most tiles that tell: a part that warms
/// up pulls at its own surroundings only, a camera that moves takes the whole picture along.
bool MotionTracker::clearlyBetter(const Look& there, const Look& here) {
    constexpr double clearly = 16, tells = 1;
    constexpr int fewest = 4;
    double gain = 0;
    int better = 0, worse = 0;
    for (std::size_t t = 0; t < here.tiles.size(); ++t) {
        const double by = misfit(here.tiles[t], here.spread) - misfit(there.tiles[t], here.spread);
        gain += by;
        better += by > tells;
        worse += by < -tells;
    }
    return gain > clearly && better >= fewest && better > 2 * worse;
}

PixelPoint MotionTracker::track(const cv::Mat& now) {
    if (m_tiles.empty()) return {};
    follow(now);
    return {m_joined * m_last.x_px, m_joined * m_last.y_px};
}

void MotionTracker::follow(const cv::Mat& now) {
    Look look = lookAt(now, m_last);
    if (!m_pruned) {
        keepWhatIsNoNoise(look.spread / std::sqrt(2.0));
        if (m_tiles.empty()) return;
        look = lookAt(now, m_last);
    }
    PixelPoint shift = m_last;
    Look best = look;
    constexpr int steps = 8;
    // Steps far below what noise makes of them tell nothing.
    constexpr double settled_px = 0.004, ofNoise = 0.2, farthest_px = 24, longest_px = 0.7;
    for (int i = 0; i < steps; ++i) {
        const Step step = stepFrom(best);
        m_sigma_px = step.sigma_px;
        const double length = std::hypot(step.by.x_px, step.by.y_px);
        if (length < std::max(settled_px, ofNoise * step.sigma_px)) break;
        const double share = length > longest_px ? longest_px / length : 1;
        shift = {std::clamp(shift.x_px + share * step.by.x_px, -farthest_px, farthest_px),
                 std::clamp(shift.y_px + share * step.by.y_px, -farthest_px, farthest_px)};
        best = lookAt(now, shift);
    }
    // What is told so badly is told by a few hot parts, not by the scene.
    constexpr double unsure_px = 0.3;
    if (m_sigma_px >= unsure_px) return;
    const double variance_px2 = m_sigma_px * m_sigma_px;
    if (clearlyBetter(best, look)) {
        m_last = shift;
        m_variance_px2 = variance_px2;
    } else if (m_variance_px2) {
        // A camera that is known to move wanders on between the steps that are clear one by one: a random
        // walk, followed as Kalman's filter does.
        constexpr double walk_px = 0.05;
        const double before_px2 = *m_variance_px2 + walk_px * walk_px;
        const double gain = before_px2 / (before_px2 + variance_px2);
        m_last.x_px += gain * (shift.x_px - m_last.x_px);
        m_last.y_px += gain * (shift.y_px - m_last.y_px);
        m_variance_px2 = (1 - gain) * before_px2;
    }
}

namespace {

/// Weights of four neighbours, the second one before the place that lies so far behind it: cubic convolution
/// with a = -1/2, the one that draws parabolas exactly (Keys, IEEE Trans. ASSP 29, 1981, 1153).
cv::Vec4f cubicWeights(double part) {
    const double t = part, t2 = t * t, t3 = t2 * t;
    return {static_cast<float>((-t3 + 2 * t2 - t) / 2), static_cast<float>((3 * t3 - 5 * t2 + 2) / 2),
            static_cast<float>((-3 * t3 + 4 * t2 + t) / 2), static_cast<float>((t3 - t2) / 2)};
}

} // namespace

cv::Mat movedBack(const cv::Mat& frame, PixelPoint shift) {
    const int x = static_cast<int>(std::floor(shift.x_px)), y = static_cast<int>(std::floor(shift.y_px));
    const int aside = std::abs(x) + 2, along = std::abs(y) + 2; // with the neighbours of the last pixel
    cv::Mat wider, out;
    cv::copyMakeBorder(frame, wider, along, along, aside, aside, cv::BORDER_REPLICATE);
    // One shift for all pixels: rows and columns apart, and exact, where a general warp goes by steps.
    cv::sepFilter2D(wider(cv::Rect({aside + x, along + y}, frame.size())), out, CV_32F,
                    cubicWeights(shift.x_px - x), cubicWeights(shift.y_px - y), {1, 1}, 0,
                    cv::BORDER_REPLICATE);
    return out;
}

} // namespace ustor
