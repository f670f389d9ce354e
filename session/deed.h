#pragma once

#include "diagnosis/assess.h"

#include <vector>

namespace ustor {

/// What carrying out a move comes to: facts that hold as soon as somebody says that it is done, and work for
/// instruments or hands that leaves its facts later. One for window, walk and player.
struct Deed {
    enum class Work {
        None,
        Read,          ///< the meter at `place`
        ReadAlong,     ///< millivolts at `place`, while the current flows
        Inject,        ///< with `side` to the camera
        Watch,         ///< with `side` to the camera, on the board's own power
        TypeComplaint, ///< a person has to say it
        TypeSource,
        TypePart ///< what `place` reads by itself
    };
    std::vector<FactBody> facts;
    Work work = Work::None;
    std::string place = {};
    Side side = Side::Top;
    School school = School::Ladder;
    MeterMode mode = MeterMode::Ohms; ///< of a reading
    std::string against = {};         ///< of a reading from pad to pad
};

Deed deedFor(const NextMove& move, const Assessment& assessment);

} // namespace ustor
