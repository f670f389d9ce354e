#pragma once

#include "rail/stretch.h"
#include "rail/walk_order.h"

#include <string>
#include <vector>

namespace ustor {

/// One place of a survey: where to touch for which rail.
struct SurveyStop {
    std::string place; ///< "C12.1"
    NetIndex net = -1;
    Side side = Side::Top;
};

/// One reading for each of the rails (all power nets where none are named), each at its handiest pad, in a
/// short way over the board. Rails that hang together through links are one stop.
std::vector<SurveyStop> surveyWay(const Board& board, const std::vector<NetIndex>& rails = {},
                                  Side first = Side::Top);

/// Every part with a pad on the stretch, in a short way over both sides, for the eye.
std::vector<PartIndex> tourWay(const Board& board, const Stretch& stretch, Side first = Side::Top);

} // namespace ustor
