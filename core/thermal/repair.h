#pragma once

#include "base/message.h"
#include "thermal/motion.h"
#include "thermal/recording.h"
#include "thermal/repair_kind.h"

#include <opencv2/core.hpp>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace ustor {

/// Takes out what the camera does to the picture, frame by frame as they come: frozen pictures while the
/// shutter is closed are dropped, pictures of a camera that moves are moved back, and offset jumps and drift
/// common to all pixels are removed as the median over a fixed sample of the picture against the first frame.
/// The median stands on most of the board being far from the source; what warms everything alike is lost by
/// design.
class StreamRepair {
  public:
    explicit StreamRepair(LeftOut leftOut = {}) : m_leftOut(std::move(leftOut)) {}
    struct Output {
        bool usable = false;
        cv::Mat kelvin;      ///< rise against the first frame, CV_32FC1
        double common_k = 0; ///< what all pixels rose by
    };
    /// Frames of one size only.
    Output take(const ThermalFrame& frame);

    // The steps of `take`, for who has many frames at once. `prepared` and `finished` know of no other frame
    // and may run beside the rest; `admits`, `placed` and `counted` want the frames in their order.
    struct Prepared {
        cv::Mat kelvin, smoothed;
    };
    struct Placed {
        cv::Mat kelvin;
        std::optional<PixelPoint> shift; ///< to be moved back by, px
    };
    /// False for a frame that is the last one over again.
    bool admits(const ThermalFrame& frame);
    static Prepared prepared(const ThermalFrame& frame);
    Placed placed(Prepared frame);
    Output finished(const Placed& frame) const;
    Output counted(Output frame);

    /// Largest shift against the first frame so far, px; 0 while the camera stands still.
    double moved_px() const { return m_moved_px; }
    /// Standard deviation of where the first frame lies among the others, px, by its own noise and what pulls
    /// at all; 0 while the camera stands still, for then nothing is moved to it.
    double firstFrame_px() const;
    int frozenFrames() const { return m_frozen; }
    int jumps() const { return m_jumps; }
    /// What was repaired, in words for people; empty when nothing was.
    std::vector<RepairNote> notes() const;
    /// What is known to be wrong and was not mended.
    std::vector<Message> doubts() const;

  private:
    std::optional<PixelPoint> shiftOf(const cv::Mat& smoothed);
    bool does(Repair repair) const { return m_leftOut.count(repair) == 0; }

    LeftOut m_leftOut;
    cv::Mat m_first;    // CV_32F kelvin
    cv::Mat m_previous; // CV_16U as it came
    double m_lastCommon_k = 0;
    int m_frozen = 0, m_jumps = 0;
    std::optional<MotionTracker> m_tracker;
    bool m_moves = false;                   ///< once seen to move, each frame is moved back
    double m_moved_px = 0, m_sigmas_px = 0; ///< the latter: sum over the frames that were followed
    int m_followed = 0;
    int m_frames = 0, m_unsure = 0; ///< frames whose place is not known well
};

} // namespace ustor
