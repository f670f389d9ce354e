#pragma once

#include "base/measurement.h"
#include "board/board.h"

#include <string>

namespace ustor {

// What meters show, and what they are to be read by.

/// A meter reading at a place, against ground unless `against` names another.
struct ReadingTaken {
    std::string place;
    std::string against;
    Reading reading;
    bool reversed = false; ///< leads the other way round than usual: black on ground in diode test
    bool powered = false;  ///< the board had power: nothing but volts means anything then
};
/// The same reading on another board of the model, one that works.
struct DonorReading {
    std::string place;
    Reading reading;
    bool reversed = false;
};
/// Volts along the copper while a held current flows from `plus` to `minus`.
struct MillivoltTaken {
    std::string place, black; ///< red and black lead; an empty black stays at its fixed ground
    double volts = 0, resolution = 0;
    double amps = 0;
    std::string plus, minus;
};
/// Readings drift on a warm board: it is warm from now on, or has cooled.
struct BoardWarm {
    bool warm = true;
};
/// The rail that the hunt is about.
struct RailChosen {
    std::string net;
};
struct ClassCorrected {
    std::string part;
    PartClass partClass = PartClass::Other;
};
struct NominalSet {
    std::string net;
    double volts = 0;
};

} // namespace ustor
