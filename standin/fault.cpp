#include "standin/fault.h"

#include "base/random.h"

#include <cmath>
#include <vector>

namespace ustor::standin {
namespace {

bool canFail(const Part& part) {
    switch (part.partClass) {
    case PartClass::CeramicCapacitor:
    case PartClass::PolarCapacitor:
    case PartClass::ClampDiode:
    case PartClass::Diode:
    case PartClass::Mosfet:
    case PartClass::Regulator:
    case PartClass::Ic:
        return true;
    default:
        return false;
    }
}

/// The rail pad's net of a part that also has a ground pad; the lowest pin wins.
std::optional<std::string> shortedNet(const Board& board, const Part& part) {
    bool ground = false;
    std::optional<std::string> rail;
    for (const Pad& pad : part.pads) {
        if (pad.net < 0 || pad.pin == "G") continue;
        const Net& net = board.nets[pad.net];
        if (net.ground)
            ground = true;
        else if (!rail && (net.nominal || part.partClass == PartClass::Mosfet))
            rail = net.name;
    }
    return ground ? rail : std::nullopt;
}

/// Large parts burn at one place of the die, small ones all over.
BoardPoint placeInBody(const Part& part, Random& random) {
    const double reach = part.width_mm * part.height_mm > 8 ? 0.25 : 0;
    return {part.centre.x_mm + reach * part.width_mm * random.uniform(-1, 1),
            part.centre.y_mm + reach * part.height_mm * random.uniform(-1, 1)};
}

} // namespace

std::optional<Fault> drawFault(const Board& board, std::uint64_t seed) {
    Random random(seed * 2654435761ULL + 17);
    std::vector<const Part*> parts;
    for (const Part& part : board.parts)
        if (canFail(part) && shortedNet(board, part)) parts.push_back(&part);
    if (parts.empty()) return std::nullopt;
    const Part& part = *parts[random.below(static_cast<int>(parts.size()))];
    Fault fault{part.designator, *shortedNet(board, part), 0, placeInBody(part, random)};
    const auto& nominal = board.nets[board.findNet(fault.net)].nominal;
    const bool core = nominal && nominal->value <= 1.3;
    if (core)
        fault.ohms = std::exp(random.uniform(std::log(0.005), std::log(0.03)));
    else if (random.uniform() < 0.15)
        fault.ohms = random.uniform(20, 70);
    else
        fault.ohms = std::exp(random.uniform(std::log(0.02), std::log(1.5)));
    return fault;
}

std::optional<Fault> faultAt(const Board& board, const std::string& designator, double ohms) {
    const PartIndex index = board.findPart(designator);
    if (index < 0 || !(ohms > 0)) return std::nullopt;
    const auto net = shortedNet(board, board.parts[index]);
    if (!net) return std::nullopt;
    Random random(static_cast<std::uint64_t>(index) + 5);
    return Fault{board.parts[index].designator, *net, ohms, placeInBody(board.parts[index], random)};
}

} // namespace ustor::standin
