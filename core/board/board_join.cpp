#include "board/board_join.h"

#include "base/median.h"
#include "board/case_size.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace ustor {
namespace {

BoardPoint middleOfPads(const Part& part) {
    BoardPoint low = part.pads.front().at, high = low;
    for (const Pad& pad : part.pads) {
        low = {std::min(low.x_mm, pad.at.x_mm), std::min(low.y_mm, pad.at.y_mm)};
        high = {std::max(high.x_mm, pad.at.x_mm), std::max(high.y_mm, pad.at.y_mm)};
    }
    return {(low.x_mm + high.x_mm) / 2, (low.y_mm + high.y_mm) / 2};
}

/// How the list's frame lies in the board's: x may be mirrored (for bottom rows), then shifted.
struct Shift {
    double sign = 1, x_mm = 0, y_mm = 0, residual_mm = 0;
    BoardPoint apply(BoardPoint p) const { return {sign * p.x_mm + x_mm, p.y_mm + y_mm}; }
};

struct Match {
    BoardPoint listed, placed;
};

Shift shiftFor(const std::vector<Match>& matches, double sign) {
    std::vector<double> dx, dy, left;
    for (const Match& m : matches) {
        dx.push_back(m.placed.x_mm - sign * m.listed.x_mm);
        dy.push_back(m.placed.y_mm - m.listed.y_mm);
    }
    Shift shift{sign, medianOf(dx), medianOf(dy), 0};
    for (const Match& m : matches)
        left.push_back(distance_mm(shift.apply(m.listed), m.placed));
    shift.residual_mm = medianOf(left);
    return shift;
}

/// Centres of pads and of bodies differ by design on many parts; below this the frames are called the same.
constexpr double sameOrigin_mm = 0.25;

Shift bestShift(const std::vector<Match>& matches) {
    if (matches.empty()) return {};
    Shift none;
    std::vector<double> left;
    for (const Match& m : matches)
        left.push_back(distance_mm(m.listed, m.placed));
    none.residual_mm = medianOf(left);
    if (none.residual_mm < sameOrigin_mm || matches.size() < 3) return none;
    Shift best = shiftFor(matches, 1);
    const Shift mirrored = shiftFor(matches, -1);
    if (mirrored.residual_mm < best.residual_mm) best = mirrored;
    return best.residual_mm < none.residual_mm ? best : none;
}

} // namespace

void joinCentroids(Board& board, const CentroidList& list) {
    std::map<std::string, PartIndex> byName;
    for (PartIndex i = 0; i < static_cast<PartIndex>(board.parts.size()); ++i)
        byName[board.parts[i].designator] = i;
    const auto partOf = [&](const Centroid& row) {
        const auto found = byName.find(row.designator);
        return found == byName.end() ? -1 : found->second;
    };

    Shift shifts[2];
    for (const Side side : {Side::Top, Side::Bottom}) {
        std::vector<Match> matches;
        for (const Centroid& row : list.rows)
            if (const PartIndex part = partOf(row);
                row.side == side && part >= 0 && !board.parts[part].pads.empty())
                matches.push_back({row.at, middleOfPads(board.parts[part])});
        auto& shift = shifts[side == Side::Bottom];
        shift = bestShift(matches);
        constexpr double poor_mm = 2;
        if (shift.sign < 0 || std::hypot(shift.x_mm, shift.y_mm) > 0)
            board.warnings.push_back(
                {"centroid list",
                 shift.sign < 0 ? say("the {side} side had another origin and was mirrored: brought together",
                                      {{"side", labelOf(side)}})
                                : say("the {side} side had another origin: brought together",
                                      {{"side", labelOf(side)}})});
        if (shift.residual_mm > poor_mm)
            board.warnings.push_back({"centroid list", say("centres of the {side} side do not fit the pads",
                                                           {{"side", labelOf(side)}})});
    }
    // A list with one origin for both sides: the side with too few parts to tell follows the other.
    for (const Centroid& row : list.rows) {
        PartIndex index = partOf(row);
        if (index < 0) {
            index = static_cast<PartIndex>(board.parts.size());
            board.parts.emplace_back();
            board.parts.back().designator = row.designator;
            byName[row.designator] = index;
        }
        Part& part = board.parts[index];
        part.value = row.value;
        part.package = row.package;
        part.side = row.side;
        part.rotation_deg = row.rotation_deg;
        part.centre = shifts[row.side == Side::Bottom].apply(row.at);
    }
    board.warnings.insert(board.warnings.end(), list.warnings.begin(), list.warnings.end());
}

void completeParts(Board& board) {
    for (Part& part : board.parts) {
        const bool placed = part.centre.x_mm != 0 || part.centre.y_mm != 0;
        if (!part.pads.empty()) {
            if (!placed) part.centre = middleOfPads(part);
            const bool surface =
                std::none_of(part.pads.begin(), part.pads.end(), [](const Pad& pad) { return pad.through; });
            if (surface) part.side = part.pads.front().side;
        }
        if (part.width_mm <= 0) {
            if (const auto size = caseSizeFromPackage(part.package)) {
                part.width_mm = size->length_mm;
                part.height_mm = size->width_mm;
            } else if (!part.pads.empty()) {
                // The box around the pads, in the part's own axes.
                const double turn = -part.rotation_deg * 3.14159265358979323846 / 180;
                for (const Pad& pad : part.pads) {
                    const double dx = pad.at.x_mm - part.centre.x_mm, dy = pad.at.y_mm - part.centre.y_mm;
                    // Pad sizes are given along the board's axes, the body's along its own.
                    const bool across = std::fabs(std::sin(turn)) > 0.7;
                    const double halfAlong = (across ? pad.height_mm : pad.width_mm) / 2,
                                 halfAside = (across ? pad.width_mm : pad.height_mm) / 2;
                    part.width_mm =
                        std::max(part.width_mm,
                                 2 * (std::fabs(dx * std::cos(turn) - dy * std::sin(turn)) + halfAlong));
                    part.height_mm =
                        std::max(part.height_mm,
                                 2 * (std::fabs(dx * std::sin(turn) + dy * std::cos(turn)) + halfAside));
                }
            }
        }
        if (!part.classByUser && part.partClass == PartClass::Other)
            part.partClass = guessPartClass(part.designator, part.value, part.package);
    }
}

} // namespace ustor
