#include "board/board.h"

#include "base/number_text.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

namespace ustor {

PartIndex Board::findPart(std::string_view designator) const {
    const std::string_view wanted = trimmed(designator);
    for (PartIndex i = 0; i < static_cast<PartIndex>(parts.size()); ++i)
        if (sameLetters(parts[i].designator, wanted)) return i;
    return -1;
}

NetIndex Board::findNet(std::string_view netName) const {
    for (NetIndex i = 0; i < static_cast<NetIndex>(nets.size()); ++i)
        if (nets[i].name == netName) return i;
    const std::string_view wanted = trimmed(netName);
    for (NetIndex i = 0; i < static_cast<NetIndex>(nets.size()); ++i)
        if (sameLetters(nets[i].name, wanted)) return i;
    return -1;
}

std::optional<PadRef> Board::findPad(std::string_view place) const {
    const auto dot = place.rfind('.');
    const PartIndex part = findPart(place.substr(0, dot));
    if (part < 0) return std::nullopt;
    if (dot == std::string_view::npos)
        return parts[part].pads.empty() ? std::nullopt : std::optional(PadRef{part, 0});
    const std::string_view pin = trimmed(place.substr(dot + 1));
    for (int i = 0; i < static_cast<int>(parts[part].pads.size()); ++i)
        if (sameLetters(parts[part].pads[i].pin, pin)) return PadRef{part, i};
    return std::nullopt;
}

std::string Board::placeOf(PadRef ref) const {
    return parts[ref.part].designator + "." + pad(ref).pin;
}

std::vector<PadRef> Board::padsOf(NetIndex net) const {
    std::vector<PadRef> found;
    for (PartIndex p = 0; p < static_cast<PartIndex>(parts.size()); ++p)
        for (int i = 0; i < static_cast<int>(parts[p].pads.size()); ++i)
            if (parts[p].pads[i].net == net) found.push_back({p, i});
    return found;
}

bool Board::touches(PartIndex part, NetIndex net) const {
    const auto& pads = parts[part].pads;
    return std::any_of(pads.begin(), pads.end(), [net](const Pad& pad) { return pad.net == net; });
}

BoardBox Board::box() const {
    constexpr double far = std::numeric_limits<double>::max();
    BoardBox box{{far, far}, {-far, -far}};
    const auto take = [&box](BoardPoint p, double margin) {
        box.low = {std::min(box.low.x_mm, p.x_mm - margin), std::min(box.low.y_mm, p.y_mm - margin)};
        box.high = {std::max(box.high.x_mm, p.x_mm + margin), std::max(box.high.y_mm, p.y_mm + margin)};
    };
    for (const BoardPoint p : outline)
        take(p, 0);
    if (outline.empty()) {
        constexpr double edge_mm = 2;
        for (const Part& part : parts) {
            take(part.centre, edge_mm);
            for (const Pad& pad : part.pads)
                take(pad.at, edge_mm);
        }
        for (const Via& via : vias)
            take(via.at, edge_mm);
    }
    if (box.low.x_mm > box.high.x_mm) return {{0, 0}, {100, 70}};
    return box;
}

std::array<BoardPoint, 4> cornersOf(const Part& part) {
    const double turn = part.rotation_deg * std::numbers::pi / 180, c = std::cos(turn), s = std::sin(turn);
    std::array<BoardPoint, 4> corners;
    constexpr std::array<std::array<double, 2>, 4> round{{{-1, -1}, {1, -1}, {1, 1}, {-1, 1}}};
    for (std::size_t i = 0; i < round.size(); ++i) {
        const double dx = round[i][0] * part.width_mm / 2, dy = round[i][1] * part.height_mm / 2;
        corners[i] = {part.centre.x_mm + c * dx - s * dy, part.centre.y_mm + s * dx + c * dy};
    }
    return corners;
}

} // namespace ustor
