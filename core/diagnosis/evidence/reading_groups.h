#pragma once

#include "diagnosis/evidence/reading_likelihood.h"
#include "diagnosis/fact/case_state.h"

#include <memory>
#include <string>
#include <vector>

namespace ustor {

/// Readings that say the same thing: one place, one mode, the board as it stood. Said twice, they are no
/// second witness: they share their slip, and count as one.
struct ReadingGroup {
    ProbedNets probed;
    int rail = -1; ///< of the place
    ReadingDoubt doubt;
    std::shared_ptr<const PartsOff> then;
    std::vector<PartIndex> off; ///< then, in order
    std::string place;          ///< as it was noted
    std::vector<Reading> readings;
    long fact = 0; ///< of the first of them
    /// By reading: its density where it is a slip; by itself where this is empty.
    std::vector<double> strays = {};
    double strayOf(std::size_t reading) const {
        return strays.empty() ? strayDensity(readings[reading]) : strays[reading];
    }
};

/// What is weighed of a rail that is read again and again: its first groups and its newest, and beside them
/// those that were read while something was off, for they acquit; of each the newest readings (judgement:
/// more than anybody reads of one rail in one sitting).
struct ReadingsOfARail {
    static constexpr std::size_t first = 4, newest = 14, withPartsOff = 60, again = 4;
};
/// Readings between the first and the newest of a rail, that count no more.
struct ReadingsLeftOut {
    int rail = -1;
    int readings = 0;
    long fact = 0; ///< the newest of them
};

/// The readings without power that lie on rails, in the order of their first.
std::vector<ReadingGroup> readingGroups(const CaseState& state, const BoardCircuit& circuit,
                                        std::vector<ReadingsLeftOut>* leftOut = nullptr);

} // namespace ustor
