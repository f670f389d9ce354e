#pragma once

#include "base/message.h"
#include "thermal/kept_rises.h"
#include "thermal/recording.h"
#include "thermal/repair_kind.h"

#include <opencv2/core.hpp>
#include <string>
#include <vector>

namespace ustor {

/// The frames of a recording that can be used, repaired once: they are gone over several times.
struct RepairedFrames {
    std::vector<double> times_s;
    KeptRises rises_k; ///< against the first frame
    std::vector<cv::Mat>
        means_k; ///< of blocks, see `blockMeans`; of the first frames, as far as was asked for
    std::vector<cv::Mat>
        covered; ///< blocks that something passes through, see `passingThrough`; empty, or one each
    double firstFrame_px = 0; ///< see `StreamRepair::firstFrame_px`
    std::vector<RepairNote> done;
    std::vector<Message> undone; ///< what is known to be wrong and was not mended
};

/// Frames, motion and common offsets; `covered` stays empty. Who gives the frames away needs memory for one
/// of the two only.
RepairedFrames repairFrames(std::vector<ThermalFrame> frames, const LeftOut& leftOut = {});
/// Finds what passes through the picture; it needs to know when power was delivered.
void leaveOutPassing(RepairedFrames& repaired, const std::vector<SupplySample>& supply);

} // namespace ustor
