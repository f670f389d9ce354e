#include "rail/walk_order.h"

#include <algorithm>
#include <cstddef>

namespace ustor {
namespace {

double away(const std::vector<Stop>& stops, int a, int b) {
    return distance_mm(stops[a].at, stops[b].at);
}

/// The way over one side, from the stop next to the corner where a hand comes in.
std::vector<int> overOneSide(const std::vector<Stop>& stops, std::vector<int> left) {
    std::vector<int> order;
    if (left.empty()) return order;
    const auto start = std::min_element(left.begin(), left.end(), [&](int a, int b) {
        return stops[a].at.x_mm - stops[a].at.y_mm < stops[b].at.x_mm - stops[b].at.y_mm;
    });
    order.push_back(*start);
    left.erase(start);
    while (!left.empty()) {
        const auto next = std::min_element(left.begin(), left.end(), [&](int a, int b) {
            return away(stops, order.back(), a) < away(stops, order.back(), b);
        });
        order.push_back(*next);
        left.erase(next);
    }
    // Turning a piece of the way round pays while two legs cross.
    const auto count = static_cast<std::ptrdiff_t>(order.size());
    constexpr int mostRounds = 30;
    constexpr double worth_mm = 1e-9;
    bool better = true;
    for (int round = 0; better && round < mostRounds; ++round) {
        better = false;
        for (std::ptrdiff_t i = 1; i + 1 < count; ++i)
            for (std::ptrdiff_t k = i + 1; k < count; ++k) {
                const double before = away(stops, order[i - 1], order[i]) +
                                      (k + 1 < count ? away(stops, order[k], order[k + 1]) : 0);
                const double after = away(stops, order[i - 1], order[k]) +
                                     (k + 1 < count ? away(stops, order[i], order[k + 1]) : 0);
                if (after + worth_mm < before) {
                    std::reverse(order.begin() + i, order.begin() + k + 1);
                    better = true;
                }
            }
    }
    return order;
}

} // namespace

std::vector<int> walkOrder(const std::vector<Stop>& stops, Side first) {
    std::vector<int> sides[2];
    for (int i = 0; i < static_cast<int>(stops.size()); ++i)
        sides[stops[i].side != first].push_back(i);
    std::vector<int> order = overOneSide(stops, std::move(sides[0]));
    const auto second = overOneSide(stops, std::move(sides[1]));
    order.insert(order.end(), second.begin(), second.end());
    return order;
}

} // namespace ustor
