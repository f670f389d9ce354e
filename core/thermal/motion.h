#pragma once

#include "base/points.h"

#include <opencv2/core.hpp>
#include <optional>
#include <vector>

namespace ustor {

/// How far the scene has moved since the first frame, in sub-pixels: a shift of the whole picture, found by
/// Gauss and Newton on the pixels with the steepest gradients (Lucas and Kanade, IJCAI 1981); pixels that do
/// not fit count less (Huber). Level and contrast of each tile of the picture may change by themselves, for
/// metal shows what bends over the board, and parts warm up: that is no motion.
class MotionTracker {
  public:
    /// The picture that all others are compared with, CV_32FC1.
    explicit MotionTracker(const cv::Mat& first);
    /// A frame as the search wants it: dead pixels and the finest noise taken out, a large one halved.
    static cv::Mat smoothed(const cv::Mat& frame);
    /// Where the first frame's origin lies in this smoothed frame, px. The last answer is the start of the
    /// search, and stands where the search finds no place that fits clearly better; of a camera that was
    /// clearly moved before, what the search finds counts in proportion to how well it is told.
    PixelPoint track(const cv::Mat& smoothedFrame);
    /// Standard deviation of an answer from noise, by the fit's own residual; large where the scene has no
    /// edges.
    double sigma_px() const { return m_joined * m_sigma_px; }
    /// False where the scene has no edges that stand out of the noise.
    bool canTell() const { return !m_tiles.empty(); }

  private:
    struct Point {
        int x, y;
        float value, gx, gy;
    };
    using Tile = std::vector<Point>;
    /// What a frame shows where the tile's points should be: frame - reference = level + contrast *
    /// (reference
    /// - its mean) + left.
    struct TileMatch {
        std::vector<double> left;
        double level = 0, contrast = 0, spread = 0;
    };
    struct Look {
        std::vector<TileMatch> tiles;
        double spread = 0;
    };
    struct Step {
        PixelPoint by;
        double sigma_px = 0;
    };
    void follow(const cv::Mat& smoothedFrame);
    void keepWhatIsNoNoise(double noise_k);
    static void matchTile(const Tile& tile, std::vector<double>& left, TileMatch& match);
    Look lookAt(const cv::Mat& frame, PixelPoint shift) const;
    Step stepFrom(const Look& look) const;
    static double misfit(const TileMatch& tile, double spread);
    static bool clearlyBetter(const Look& there, const Look& here);

    int m_joined = 1; ///< pixels to one of the search's, each way; what follows is in those
    std::vector<Tile> m_tiles;
    bool m_pruned = false;
    PixelPoint m_last;
    double m_sigma_px = 0;
    std::optional<double> m_variance_px2; ///< of the last answer, once the camera is known to move
};

/// The frame as it would be without the shift: the first frame's pixels again.
cv::Mat movedBack(const cv::Mat& frame, PixelPoint shift);

} // namespace ustor
