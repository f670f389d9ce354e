#include "board/part_class.h"

#include "base/number_text.h"
#include "base/quantity_text.h"

#include <algorithm>
#include <array>
#include <string>
#include <utility>

namespace ustor {
namespace {

struct Words {
    PartClass partClass;
    std::string_view word;
    const char* label;
};

constexpr std::array<Words, 19> words{{
    {PartClass::CeramicCapacitor, "ceramic capacitor", toSay("ceramic capacitor")},
    {PartClass::PolarCapacitor, "polar capacitor", toSay("polar capacitor")},
    {PartClass::Resistor, "resistor", toSay("resistor")},
    {PartClass::SenseResistor, "sense resistor", toSay("sense resistor")},
    {PartClass::Inductor, "inductor", toSay("inductor")},
    {PartClass::Ferrite, "ferrite", toSay("ferrite")},
    {PartClass::Fuse, "fuse", toSay("fuse")},
    {PartClass::Diode, "diode", toSay("diode")},
    {PartClass::ClampDiode, "clamp diode", toSay("clamp diode")},
    {PartClass::Mosfet, "mosfet", toSay("MOSFET")},
    {PartClass::Regulator, "regulator", toSay("regulator")},
    {PartClass::Ic, "ic", toSay("IC")},
    {PartClass::Processor, "processor", toSay("processor")},
    {PartClass::Connector, "connector", toSay("connector")},
    {PartClass::Switch, "switch", toSay("switch")},
    {PartClass::Crystal, "crystal", toSay("crystal")},
    {PartClass::TestPoint, "test point", toSay("test point")},
    {PartClass::Mechanical, "mechanical", toSay("mechanical")},
    {PartClass::Other, "other", toSay("other")},
}};

bool contains(const std::string& text, std::initializer_list<std::string_view> needles) {
    return std::any_of(needles.begin(), needles.end(),
                       [&](std::string_view needle) { return text.find(needle) != std::string::npos; });
}

/// Below this a resistor is a link for a short hunt: it carries the current and does not hide the short.
constexpr double senseLimitOhms = 0.25;

PartClass capacitorClass(const std::string& about) {
    const bool polar = contains(about, {"tant", "polymer", "elec", "elko", "polar", "radial", "cp_"});
    return polar ? PartClass::PolarCapacitor : PartClass::CeramicCapacitor;
}

PartClass resistorClass(std::string_view value) {
    const auto ohms = resistorOhms(value);
    return ohms && *ohms <= senseLimitOhms ? PartClass::SenseResistor : PartClass::Resistor;
}

PartClass inductorClass(const std::string& about) {
    return contains(about, {"ferrite", "bead", "@100m", "ohm@", "r@"}) ? PartClass::Ferrite
                                                                       : PartClass::Inductor;
}

PartClass icClass(const std::string& about) {
    if (contains(about, {"cpu", "soc", "processor", "fpga", "mcu", "micro", "dsp"}))
        return PartClass::Processor;
    if (contains(about, {"ldo", "reg", "buck", "boost", "conv", "dcdc", "pmic", "ctrl", "charger", "vrm"}))
        return PartClass::Regulator;
    return PartClass::Ic;
}

} // namespace

std::string_view wordOf(PartClass partClass) {
    for (const Words& each : words)
        if (each.partClass == partClass) return each.word;
    return "other";
}

Message labelOf(PartClass partClass) {
    for (const Words& each : words)
        if (each.partClass == partClass) return say(each.label);
    return {};
}

std::optional<PartClass> partClassFromWord(std::string_view word) {
    for (const Words& each : words)
        if (each.word == lowered(trimmed(word))) return each.partClass;
    return std::nullopt;
}

std::optional<double> resistorOhms(std::string_view value) {
    std::string text(trimmed(value.substr(0, value.find_first_of("/ "))));
    if (text.empty()) return std::nullopt;
    // Written without a digit before the letter: R010 is 0R010.
    if (text.front() == 'R') text.insert(0, "0");
    const auto ohms = quantityFromText(text);
    // Lists carry each other's values: what is written as nano or pico is no resistor, and none is that
    // small.
    constexpr double smallest_ohms = 1e-5;
    if (ohms && *ohms > 0 && *ohms < smallest_ohms) return std::nullopt;
    return ohms;
}

PartClass guessPartClass(std::string_view designator, std::string_view value, std::string_view package) {
    const auto digits = designator.find_first_of("0123456789");
    const std::string letters = uppered(trimmed(designator.substr(0, digits)));
    const std::string about = lowered(std::string(value) + " " + std::string(package));
    const auto is = [&](std::initializer_list<std::string_view> list) {
        return std::find(list.begin(), list.end(), letters) != list.end();
    };
    if (is({"C", "CB", "CP"})) return capacitorClass(about);
    if (is({"CE", "CT", "TC"})) return PartClass::PolarCapacitor;
    if (is({"R", "RN", "RP", "PR"})) return resistorClass(value);
    if (is({"RS", "RSH"})) return PartClass::SenseResistor;
    if (is({"L"})) return inductorClass(about);
    if (is({"FB", "BD", "FL"})) return PartClass::Ferrite;
    if (is({"F", "PF", "FU"})) return PartClass::Fuse;
    if (is({"D", "CR", "VD"}))
        return contains(about, {"tvs", "clamp", "zener", "esd"}) ? PartClass::ClampDiode : PartClass::Diode;
    if (is({"TVS", "DZ", "ZD", "Z"})) return PartClass::ClampDiode;
    if (is({"LED"})) return PartClass::Diode;
    if (is({"Q", "T", "VT", "PQ"})) return PartClass::Mosfet;
    if (is({"U", "IC", "N", "PU"})) return icClass(about);
    if (is({"J", "P", "CN", "CON", "X", "K", "PL"})) return PartClass::Connector;
    if (is({"S", "SW", "BT"})) return PartClass::Switch;
    if (is({"Y", "XTAL"})) return PartClass::Crystal;
    if (is({"TP"})) return PartClass::TestPoint;
    if (is({"H", "MH", "MK", "FID", "SH"})) return PartClass::Mechanical;
    return PartClass::Other;
}

} // namespace ustor
