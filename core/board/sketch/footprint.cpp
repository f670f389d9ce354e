#include "board/sketch/footprint.h"

#include "base/number_text.h"
#include "board/case_size.h"

#include <algorithm>

namespace ustor {
namespace {

/// Pins 1 .. n in two rows, counted down the left side and up the right, as seen from above.
Footprint twoRows(std::string code, int pins, double pitch_mm, double span_mm, double land_mm,
                  double body_mm) {
    Footprint f{std::move(code), body_mm, pitch_mm * (pins / 2.0), {}};
    const int half = pins / 2;
    for (int i = 0; i < pins; ++i) {
        const bool left = i < half;
        const double along = left ? (half - 1) / 2.0 - i : (i - half) - (half - 1) / 2.0;
        f.lands.push_back({std::to_string(i + 1),
                           {left ? -span_mm / 2 : span_mm / 2, along * pitch_mm},
                           land_mm,
                           0.6 * pitch_mm});
    }
    return f;
}

/// Pins on four sides, counted against the clock from the upper left; the pad in the middle comes last.
Footprint fourSides(std::string code, int pins, double pitch_mm, double body_mm) {
    Footprint f{std::move(code), body_mm, body_mm, {}};
    const int side = pins / 4;
    for (int i = 0; i < pins; ++i) {
        const double along = ((side - 1) / 2.0 - i % side) * pitch_mm, out = body_mm / 2;
        const BoardPoint at[4] = {{-out, along}, {-along, -out}, {out, -along}, {along, out}};
        const bool upright = (i / side) % 2 == 1;
        f.lands.push_back({std::to_string(i + 1), at[i / side], upright ? 0.55 * pitch_mm : 0.8,
                           upright ? 0.8 : 0.55 * pitch_mm});
    }
    f.lands.push_back({std::to_string(pins + 1), {0, 0}, 0.55 * body_mm, 0.55 * body_mm});
    return f;
}

Footprint chip(std::string code, const CaseSize& size) {
    Footprint f{std::move(code), size.length_mm, size.width_mm, {}};
    const double land = 0.45 * size.length_mm + 0.15, reach = size.length_mm / 2;
    f.lands = {{"1", {-reach, 0}, land, size.width_mm}, {"2", {reach, 0}, land, size.width_mm}};
    return f;
}

} // namespace

std::vector<std::string> casesFor(PartClass partClass) {
    switch (partClass) {
    case PartClass::PolarCapacitor:
        return {"2917", "1210", "1206"};
    case PartClass::Inductor:
        return {"IND-5", "IND-7", "1210", "0805"};
    case PartClass::Fuse:
        return {"1206", "0603", "2010"};
    case PartClass::SenseResistor:
        return {"2512", "1206", "0805"};
    case PartClass::Diode:
    case PartClass::ClampDiode:
        return {"DO-214", "0603", "SOT-23"};
    case PartClass::Mosfet:
    case PartClass::Switch:
        return {"SO-8", "SOT-23", "SOT-23-6"};
    case PartClass::Regulator:
        return {"SOT-23-5", "QFN-16", "SO-8", "QFN-24"};
    case PartClass::Ic:
    case PartClass::Processor:
        return {"QFN-24", "SO-8", "QFN-48", "QFN-16"};
    case PartClass::Connector:
        return {"CON-2", "CON-4", "CON-8"};
    default:
        return {"0402", "0603", "0805", "1206", "1210", "0201"};
    }
}

std::optional<Footprint> footprintOf(std::string_view code) {
    const std::string name(code);
    if (name == "SOT-23") {
        Footprint f{name, 2.9, 1.3, {}};
        f.lands = {{"1", {-0.95, -1}, 0.6, 0.9}, {"2", {0.95, -1}, 0.6, 0.9}, {"3", {0, 1}, 0.6, 0.9}};
        return f;
    }
    if (name == "SOT-23-5") {
        Footprint f = twoRows(name, 6, 0.95, 2.6, 0.9, 1.6);
        f.lands.erase(f.lands.begin() + 4); // three on one side, two on the other
        f.lands[4].pin = std::to_string(5);
        return f;
    }
    if (name == "SOT-23-6") return twoRows(name, 6, 0.95, 2.6, 0.9, 1.6);
    if (name == "SO-8") return twoRows(name, 8, 1.27, 5.4, 1.5, 3.9);
    if (name == "QFN-16") return fourSides(name, 16, 0.5, 3);
    if (name == "QFN-24") return fourSides(name, 24, 0.5, 4);
    if (name == "QFN-48") return fourSides(name, 48, 0.5, 7);
    if (name == "DO-214") return chip(name, {4.6, 2.6});
    if (name == "IND-5") return chip(name, {5.2, 5.2});
    if (name == "IND-7") return chip(name, {7, 7});
    if (name.starts_with("CON-")) {
        constexpr long most = 64;
        const int pins =
            static_cast<int>(std::clamp(integerFromText(name.substr(4)).value_or(0), 0L, most + 1));
        if (pins < 1 || pins > most) return std::nullopt;
        Footprint f{name, 2.0 * pins, 4, {}};
        for (int i = 0; i < pins; ++i)
            f.lands.push_back({std::to_string(i + 1), {2.0 * i - (pins - 1), 0}, 1.2, 1.8});
        return f;
    }
    if (const auto size = caseSizeFromPackage(code)) return chip(name, *size);
    return std::nullopt;
}

std::string_view letterOf(PartClass partClass) {
    switch (partClass) {
    case PartClass::CeramicCapacitor:
    case PartClass::PolarCapacitor:
        return "C";
    case PartClass::Resistor:
    case PartClass::SenseResistor:
        return "R";
    case PartClass::Inductor:
        return "L";
    case PartClass::Ferrite:
        return "FB";
    case PartClass::Fuse:
        return "F";
    case PartClass::Diode:
    case PartClass::ClampDiode:
        return "D";
    case PartClass::Mosfet:
    case PartClass::Switch:
        return "Q";
    case PartClass::Connector:
        return "J";
    case PartClass::Crystal:
        return "Y";
    case PartClass::TestPoint:
        return "TP";
    default:
        return "U";
    }
}

} // namespace ustor
