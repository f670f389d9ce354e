#include "board/gerber/placing_by_hand.h"

namespace ustor {
std::vector<BoardPoint> placesOn(const Board& board) {
    std::vector<BoardPoint> places;
    for (const Part& part : board.parts)
        for (const Pad& pad : part.pads)
            places.push_back(pad.at);
    for (const Via& via : board.vias)
        places.push_back(via.at);
    return places;
}

HandPlacing placedBy(const UnplacedFile& file, BoardPoint from, const Board& board, BoardPoint to) {
    std::multimap<double, BoardPoint> byX;
    for (const BoardPoint p : placesOn(board))
        byX.emplace(p.x_mm, p);
    HandPlacing placing{{to.x_mm - from.x_mm, to.y_mm - from.y_mm}, 0};
    constexpr double on_mm = 0.1;
    for (const BoardPoint place : file.places) {
        const BoardPoint at{place.x_mm + placing.shift.x_mm, place.y_mm + placing.shift.y_mm};
        for (auto it = byX.lower_bound(at.x_mm - on_mm); it != byX.end() && it->first <= at.x_mm + on_mm;
             ++it)
            if (distance_mm(at, it->second) <= on_mm) {
                ++placing.onPads;
                break;
            }
    }
    return placing;
}

} // namespace ustor
