#pragma once

#include "base/points.h"
#include "base/side.h"
#include "injection/stop_cause.h"
#include "thermal/heat_verdict.h"

#include <string>
#include <vector>

namespace ustor {

// Current put into a rail, and what warms by it.

struct InjectionDone {
    std::string net, plus, minus;
    double volts = 0, amps = 0; ///< as set
    double deliveredWatts = 0, seconds = 0;
    std::string recording; ///< folder inside the case; empty when nothing was recorded
    StopCause cause = StopCause::None;
    bool byHand = false; ///< switched by a person: volts and amps as asked for, power not known
};
/// How the current of a supply went while it stood at its setting.
enum class CurrentCourse { Steady, Rises, Falls, Drops };
/// What the supply shows while a person injects.
struct SupplyShows {
    std::string place; ///< where its plus is
    double volts = 0, amps = 0;
    CurrentCourse course = CurrentCourse::Steady;
};
/// One spot of a heat finding, in board millimetres.
struct HeatSpot {
    BoardPoint at;
    double sigma_mm = 0, snr = 0, power_mw = 0, delay_s = 0;
};
struct HeatFound {
    HeatVerdict verdict = HeatVerdict::None;
    Side side = Side::Top; ///< that faced the camera
    std::vector<HeatSpot> spots;
    std::string recording; ///< or the still picture
    /// By two stills: warmer than before, which says less than following the power does.
    bool fromStills = false;
    // What it was computed from, so that it can be computed anew; with `recording`. Facts by number, 0 where
    // there is none.
    std::string net = {}; ///< that was injected into
    long injection = 0;   ///< InjectionDone
    long alignment = 0;   ///< Aligned
};
/// What shows warmth beside a camera that is aligned.
enum class HeatSense {
    Alcohol, ///< dries first
    Frost,   ///< clears first
    Finger,  ///< never on a live or hot board
    Picture, ///< by eye, in a thermal picture
    Flare,   ///< warm and cold again with each try of a converter
    Idle     ///< hot while the board does nothing
};
struct HeatSensed {
    HeatSense by = HeatSense::Alcohol;
    std::string part; ///< that showed it first; empty: nothing did
    std::string net;  ///< that current flowed into; empty: the board had its own power, or nobody said
};
/// Where the camera looked, by places that a person showed in its picture.
struct Aligned {
    Side side = Side::Top;
    double residual_mm = 0;
    std::string registration; ///< "ustor-registration/1", as JSON
};
/// A stroke of the brush over a picture: what a surface is, where the board's data do not know it. In pixels
/// of the camera that looked; each of the three has its own.
struct Painted {
    enum class Over { Top, Bottom, Stills };
    Over over = Over::Top;
    std::string surface; ///< "bare metal" and so on
    PixelPoint from, to;
    double radius_px = 0;
};

} // namespace ustor
