#pragma once

#include "base/message.h"
#include "bench/camera.h"
#include "bench/instrument_address.h"
#include "bench/instrument_profile.h"

#include <vector>

namespace ustor {

/// One thing that was tried on an instrument.
struct ProbeStep {
    Message what;    ///< in words
    QString command; ///< as sent; empty where none was
    Message answer;  ///< as received, or why there is none
    bool fine = false;
    int took_ms = 0;
};

/// Tries an instrument under its profile, step by step; the first step tells whether anybody answers. All
/// wait for their answers, with an event loop of their own. The output of a supply is switched off first and
/// never on; its limits are set to small values and read.
std::vector<ProbeStep> probeSupply(const InstrumentAddress& address, const InstrumentProfile& profile);
std::vector<ProbeStep> probeMeter(const InstrumentAddress& address, const InstrumentProfile& profile);
/// Starts a camera and takes pictures for a while: rate, repeated pictures, what the middle of the picture
/// reads.
std::vector<ProbeStep> probeCamera(Camera& camera, double seconds = 2);

} // namespace ustor
