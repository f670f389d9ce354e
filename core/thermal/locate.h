#pragma once

#include "base/message.h"
#include "thermal/heat_verdict.h"
#include "thermal/recording.h"
#include "thermal/registration.h"
#include "thermal/repaired.h"
#include "thermal/sources.h"
#include "thermal/step_response.h"

#include <optional>

namespace ustor {

/// A source with what the board says about its place.
struct LocatedSource {
    HeatSource spot;
    std::optional<BoardPoint> board; ///< where a registration is known
    double sigma_mm = 0;             ///< spot and registration together
    double power_mw = 0;             ///< estimate from the spread heat; good to a factor of two
    double delay_s = 0;              ///< how late the spot follows the switch
    bool inPath = false;             ///< lies on a part that carries the current by trade; told by the board
};

struct LocateResult {
    HeatVerdict verdict = HeatVerdict::None;
    std::vector<LocatedSource> sources; ///< the strongest first
    double clockOffset_s = 0;           ///< supply's clock ahead of the frames'
    double noise_k = 0;
    double shownAt_s = 0;            ///< the instant after switch-on that the places were read from
    bool switchedFromFrames = false; ///< the supply told nothing; see `findSwitching`
    std::vector<RepairNote> repairs; ///< what was mended
    std::vector<Message> undone;     ///< what is known to be wrong and was not mended
    std::vector<Message> notes;      ///< what else to know
};

/// Locates from a running response; used live as well as for recordings. `meanWatts` scales the powers.
/// `firstFrame_px`: doubt of where the first frame lies among the others (see `StreamRepair`).
LocateResult locateSources(const StepResponse& response, double meanWatts, const Registration* registration,
                           double boardThickness_mm = 1.6, const LeftOut& leftOut = {},
                           double firstFrame_px = 0);

/// The response of repaired frames to what a supply delivered; its clock is `offset_s` ahead of theirs.
StepResponse responseOf(const RepairedFrames& repaired, const std::vector<SupplySample>& supply,
                        double offset_s = 0);

/// What is known of the switching: what the supply told, or what a person was asked to do.
struct SwitchedBy {
    std::vector<SupplySample> supply;
    std::vector<Beat> beats;
};

/// A recording, looked at whole.
struct RecordingLook {
    RepairedFrames frames;
    std::vector<SupplySample> supply; ///< as told, or as found from the frames
    StepResponse response;
    LocateResult located;
};

/// The whole way for a recording: repair, clock offset, response, sources. Error when there is nothing to
/// work with (a supply that delivered no power, too few frames). Where the supply told nothing of its power,
/// the times at which it was switched are found from the frames; where nothing was switched either, the
/// verdict is "none", and the response is not ready. A recording that is given away is held once.
Result<RecordingLook> lookAt(Recording recording, const Registration* registration,
                             double boardThickness_mm = 1.6, const LeftOut& leftOut = {});

/// The same for frames that were repaired as they came.
Result<RecordingLook> lookAt(RepairedFrames repaired, const SwitchedBy& told,
                             const Registration* registration, double boardThickness_mm = 1.6,
                             const LeftOut& leftOut = {});

/// The same for whoever wants the answer only.
Result<LocateResult> locateInRecording(Recording recording, const Registration* registration,
                                       double boardThickness_mm = 1.6, const LeftOut& leftOut = {});

} // namespace ustor
