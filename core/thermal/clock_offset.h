#pragma once

#include "base/points.h"
#include "thermal/recording.h"
#include "thermal/repaired.h"

#include <vector>

namespace ustor {

struct ClockOffset {
    double seconds = 0;   ///< supply's clock ahead of the frames'
    double explained = 0; ///< share of the place's course, beside its slow baseline, that the power explains
};

/// How far the clocks of supply and camera are apart, by the course of one place: see docs/how-computed.md.
ClockOffset clockOffset(const std::vector<SupplySample>& supply, const RepairedFrames& repaired,
                        PixelPoint spot);

} // namespace ustor
