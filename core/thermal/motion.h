#pragma once

#include "base/points.h"

#include <opencv2/core.hpp>
#include <vector>

namespace ustor {

/// How far the scene has moved since the first frame, in sub-pixels: a shift of the whole picture, found by
/// Gauss and Newton on the pixels with the steepest gradients (Lucas and Kanade, IJCAI 1981), with the common
/// offset as a third unknown and pixels that do not fit counting less (Huber). What warms up and what is in
/// the way are few pixels among these.
class MotionTracker {
  public:
    /// The picture that all others are compared with, CV_32FC1.
    explicit MotionTracker(const cv::Mat& first);
    /// Where the first frame's origin lies in this frame, px. The last answer is the start of the search, and
    /// stands where the search finds no place that fits clearly better.
    PixelPoint track(const cv::Mat& frame);
    /// Standard deviation of an answer from noise, by the fit's own residual; large where the scene has no
    /// edges.
    double sigma_px() const { return m_sigma_px; }
    /// False where the scene has no edges that stand out of the noise.
    bool canTell() const { return !m_points.empty(); }

  private:
    struct Point {
        int x, y;
        float value, gx, gy;
    };
    void keepWhatIsNoNoise(double noise_k);
    struct Look {
        std::vector<double> left; ///< of each point at a shift
        double common = 0, spread = 0;
    };
    Look lookAt(const cv::Mat& frame, PixelPoint shift) const;

    std::vector<Point> m_points;
    bool m_pruned = false;
    PixelPoint m_last;
    double m_sigma_px = 0;
};

/// The frame as it would be without the shift: the first frame's pixels again.
cv::Mat movedBack(const cv::Mat& frame, PixelPoint shift);

} // namespace ustor
