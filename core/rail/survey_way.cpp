#include "rail/survey_way.h"

#include "rail/handy_place.h"

#include <algorithm>
#include <set>

namespace ustor {

std::vector<SurveyStop> surveyWay(const Board& board, const std::vector<NetIndex>& rails, Side first) {
    std::vector<SurveyStop> stops;
    std::vector<Stop> places;
    std::set<NetIndex> covered;
    for (const NetIndex net : rails.empty() ? powerNets(board) : rails) {
        if (covered.contains(net)) continue;
        const Stretch stretch = stretchOf(board, net);
        covered.insert(stretch.nets.begin(), stretch.nets.end());
        const std::string place = handyPlace(board, stretch);
        const auto pad = board.findPad(place);
        if (!pad) continue;
        // A through pad can be touched from the side that the walk starts on.
        const Side side = board.pad(*pad).through ? first : board.pad(*pad).side;
        stops.push_back({place, board.pad(*pad).net, side});
        places.push_back({board.pad(*pad).at, side});
    }
    std::vector<SurveyStop> way;
    for (const int i : walkOrder(places, first))
        way.push_back(stops[i]);
    return way;
}

std::vector<PartIndex> tourWay(const Board& board, const Stretch& stretch, Side first) {
    std::vector<PartIndex> parts;
    std::vector<Stop> places;
    for (PartIndex p = 0; p < static_cast<PartIndex>(board.parts.size()); ++p) {
        const Part& part = board.parts[p];
        const bool on = std::any_of(part.pads.begin(), part.pads.end(),
                                    [&](const Pad& pad) { return stretch.holds(pad.net); });
        if (!on) continue;
        parts.push_back(p);
        places.push_back({part.centre, part.side});
    }
    std::vector<PartIndex> way;
    for (const int i : walkOrder(places, first))
        way.push_back(parts[i]);
    return way;
}

} // namespace ustor
