#pragma once

#include "diagnosis/work_pace.h"

#include <vector>

namespace ustor {

/// One thing that may end the hunt: how sure, and what trying it costs.
struct Trial {
    double odds = 0;
    double minutes = 0;
};

/// Expected minutes of trying one after the other until the fault is found, in the order that costs least:
/// falling odds per minute (provable by exchange; Heckerman, Breese, Rommelse, Communications of the ACM 38,
/// 1995 [memory]). What none of them finds costs `otherwise` on top; a trial that promises less than it costs
/// is left out. Odds that sum to more than one are scaled.
double expectedMinutes(std::vector<Trial> trials, double otherwise);

/// Minutes of one reading, and of one look at the heat of a side with a current that has to be set up (common
/// practice).
constexpr double minutesToRead = 0.5, minutesToLookAtHeat = 3;

/// Minutes to take a part off and measure after; by kind of part (common practice), at the pace of the shop.
double minutesToTry(const Part& part, const WorkPace& pace = {});

/// Minutes until a part that came off is back, or what replaces it (common practice).
constexpr double minutesToPutBack = 3;

/// What it costs to go on when no part of the list is the cause (judgement): the laminate, or a search
/// without a short.
constexpr double unlistedMinutes = 100;

/// What it costs to halve a doubt as long as readings, eyes and heat still tell something (judgement: half a
/// minute for a reading, three for a look at the heat).
constexpr double minutesOfABit = 3;

} // namespace ustor
