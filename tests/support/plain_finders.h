#pragma once

#include "thermal/recording.h"
#include "thermal/registration.h"

namespace ustor::testing {

/// What anybody would try first, to tell how hard a recording is. None repairs anything; places are pixels of
/// the picture as it stands.

/// The warmest pixel while the power is on, in the mean of the later half.
PixelPoint warmestPixel(const Recording& recording);
/// The same after taking away the mean of what was seen before the first switch-on.
PixelPoint warmestAfterStart(const Recording& recording);
/// The pixel whose course, without its straight line, is most like the power behind one lag of 0.5 s.
PixelPoint mostLikePower(const Recording& recording);

} // namespace ustor::testing
